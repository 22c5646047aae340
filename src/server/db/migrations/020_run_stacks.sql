-- The shot's stack and moods as they stood when a run started that delivers what the stack makes, and as which kind of file.
alter table run
  add column comp text check (comp in ('exr', 'png')),
  add column stack jsonb,
  add column moods jsonb;
