CREATE OR REPLACE FUNCTION mails_spent_until(reader integer, at timestamp with time zone, ordered boolean)
 RETURNS timestamp with time zone
 LANGUAGE sql
 STABLE
AS $function$
  SELECT max(last.t + w.within)
  FROM quota a
  CROSS JOIN LATERAL (VALUES (a.an_hour, interval '60 minutes'), (a.a_day, interval '24 hours')) AS w(most, within)
  CROSS JOIN LATERAL (
    SELECT x.t FROM (
      (SELECT d.sent_at AS t FROM delivery d WHERE a.of = 'mails' AND d.channel = 'mail' AND d.sent_at > at - w.within
      ORDER BY d.sent_at DESC LIMIT w.most)
      UNION ALL
      (SELECT d.sent_at FROM delivery d
      WHERE a.of = 'mails a reader' AND d.person_id = reader AND d.channel = 'mail' AND d.sent_at > at - w.within
        ORDER BY d.sent_at DESC LIMIT w.most)
      UNION ALL
      (SELECT at FROM delivery d
      WHERE d.channel = 'mail' AND d.state <> 'sent' AND (a.of = 'mails' OR d.person_id = reader)
        AND (d.state = 'sending'
          OR (ordered AND d.number IS NOT NULL
          AND (d.state IN ('queued', 'refused') OR (d.state = 'kept back' AND d.reason = 'allowance'))))
        LIMIT w.most)
    ) x ORDER BY x.t DESC OFFSET w.most - 1 LIMIT 1
  ) last
  WHERE a.of IN ('mails', 'mails a reader') AND w.most IS NOT NULL
$function$;
