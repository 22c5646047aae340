-- Lights state their strength as a power in a unit; what was a luminance in nits is that power.
update scene_revision
set document = jsonb_set(
  document,
  '{lights}',
  (
    select coalesce(jsonb_agg(
      case when l ? 'luminance' then (l - 'luminance') || jsonb_build_object('power', l -> 'luminance') else l end
    ), '[]'::jsonb)
    from jsonb_array_elements(document -> 'lights') as l
  )
)
where jsonb_typeof(document -> 'lights') = 'array';
