/**
 * Why a delivery `d` of a report `r` to a person `q` is not to be sent any more, whatever it waits for; null where it
 * is. What was under way when she left, or the report was deleted, is found so when it would be tried again.
 */
export const CANCELLED = `CASE
  WHEN q.removed_at IS NOT NULL THEN 'removed'
  WHEN r.ended_at IS NOT NULL THEN 'deleted'
  WHEN EXISTS (SELECT FROM reader_left l WHERE l.report_id = r.id AND l.person_id = q.id AND l.back_at IS NULL)
    THEN 'left'
END`;
