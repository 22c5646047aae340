-- Frames of runs that are joined with those beside them: one that is traced waits until its neighbours are, and is packed then.
alter table trial drop constraint trial_state_check;
alter table trial add constraint trial_state_check
  check (state in ('queued', 'rendering', 'storing', 'waiting', 'done', 'stopped', 'failed'));
-- Whether it is traced while its files are not packed, and whether it is traced for its neighbours alone.
alter table trial
  add column traced boolean not null default false,
  add column for_others boolean not null default false;
