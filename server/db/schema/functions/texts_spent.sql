CREATE OR REPLACE FUNCTION texts_spent(at timestamp with time zone)
 RETURNS boolean
 LANGUAGE sql
 STABLE
AS $function$
  SELECT EXISTS (
    SELECT FROM quota a JOIN person q ON q.id = a.owner_id
    WHERE a.of = 'texts' AND a.a_month <= (
      SELECT count(*) FROM delivery d WHERE d.channel = 'text' AND d.state <> 'given up'
        AND d.ordered_at >= date_trunc('month', at AT TIME ZONE q.zone) AT TIME ZONE q.zone))
$function$;
