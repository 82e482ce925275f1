CREATE OR REPLACE FUNCTION watch_came()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  INSERT INTO standing (watch_id, subject) SELECT id, subject FROM came WHERE state <> 'deleted';
  RETURN NULL;
END $function$;
