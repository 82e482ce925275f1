CREATE OR REPLACE FUNCTION report_moved(report integer)
 RETURNS void
 LANGUAGE sql
AS $function$
  UPDATE standing SET due_at = '-infinity' FROM report_rule j JOIN rule r ON r.id = j.rule_id
  WHERE r.watch_id = standing.watch_id AND j.report_id = report AND j.left_at IS NULL
$function$;
