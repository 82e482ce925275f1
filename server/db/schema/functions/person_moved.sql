CREATE OR REPLACE FUNCTION person_moved()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  PERFORM report_moved(report_id) FROM report_reader r
  WHERE r.person_id = NEW.id OR r.list_id IN (SELECT list_id FROM list_member m WHERE m.person_id = NEW.id);
  RETURN NULL;
END $function$;
