-- Moods belong to the shot, with the mix at hand; null until somebody has balanced it.
alter table draft add column moods jsonb;

-- What was kept with single trials goes to their shots. Groups that were silent beside one that was alone are off.
with members as (
  select m.id, g.name, m.balance -> g.name as own,
         exists (select 1 from jsonb_each(m.balance) e where (e.value ->> 'solo')::boolean) as any_alone
  from mood m join trial t on t.id = m.trial_id
  cross join lateral (
    select key as name from jsonb_each(m.balance)
    union
    select value from jsonb_array_elements_text(coalesce(t.spec -> 'groups', '[]'))
  ) g
),
mixes as (
  select id, jsonb_object_agg(name, jsonb_build_object(
      'stops', coalesce(own -> 'stops', '0'),
      'on', coalesce((own ->> 'on')::boolean, true) and (not any_alone or coalesce((own ->> 'solo')::boolean, false)),
      'color', case when coalesce(own -> 'color', '[1, 1, 1]') = '[1, 1, 1]' then '{"kind": "own"}'
                    else jsonb_build_object('kind', 'tint', 'rgb', own -> 'color') end)) as mix
  from members group by id
),
named as (
  select m.id, t.shot_id, m.created_at, coalesce(x.mix, '{}') as mix,
         case when count(*) over (partition by t.shot_id, m.name) > 1 then left(m.name, 50) || ' (' || t.number || ')' else m.name end as name
  from mood m join trial t on t.id = m.trial_id left join mixes x on x.id = m.id
),
lists as (
  select shot_id, jsonb_agg(jsonb_build_object('id', left(md5(id::text), 12), 'name', name, 'mix', mix) order by created_at) as list
  from (select *, row_number() over (partition by shot_id order by created_at desc) as nth from named) latest
  where nth <= 60 group by shot_id
)
update draft set moods = jsonb_build_object('schema', 1, 'list', lists.list) from lists where draft.shot_id = lists.shot_id;

drop table mood;
