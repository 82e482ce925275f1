CREATE OR REPLACE FUNCTION shown(value jsonb)
 RETURNS jsonb
 LANGUAGE sql
 IMMUTABLE PARALLEL SAFE
AS $function$
  SELECT CASE WHEN value->>'kind' = 'text' AND length(value->>'text') > 2000
    THEN value || jsonb_build_object('text', left(value->>'text', 2000) || '…', 'whole', length(value->>'text'))
      ELSE value END
$function$;
