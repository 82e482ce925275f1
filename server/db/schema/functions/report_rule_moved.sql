CREATE OR REPLACE FUNCTION report_rule_moved()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  UPDATE standing SET due_at = '-infinity' FROM rule r WHERE r.id = NEW.rule_id AND r.watch_id = standing.watch_id;
  RETURN NULL;
END $function$;
