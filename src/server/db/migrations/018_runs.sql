-- A run: frames of a shot that are delivered as files. All it is made from is frozen when it starts.
create table run (
  id uuid primary key,
  shot_id uuid not null references shot (id) on delete cascade,
  number integer not null,
  title text not null,
  revision_id uuid not null references scene_revision (id),
  camera text not null,
  frames text not null,
  recipe jsonb not null,
  outputs jsonb not null,
  folder text not null,
  overwrites boolean not null default false,
  keeps_films boolean not null default false,
  priority integer not null default 0,
  state text not null default 'on' check (state in ('on', 'paused', 'stopped')),
  -- Under which it was sent.
  key uuid unique,
  removed_at timestamptz,
  created_at timestamptz not null default now(),
  unique (shot_id, number)
);

-- A frame of a run, in one of its pictures, is rendered as a trial that is in no logbook and has no number of its own.
alter table trial
  alter column number drop not null,
  add column run_id uuid references run (id) on delete cascade,
  add column picture integer,
  add column machine text,
  add column began_at timestamptz,
  add constraint trial_of_run check ((run_id is null) = (number is not null) and (run_id is null) = (picture is null));
create unique index trial_of_run_frame on trial (run_id, frame, picture) where run_id is not null;

-- A file that a run delivers: packed by a worker, put into the run's folder on the server's machine.
create table run_file (
  run_id uuid not null references run (id) on delete cascade,
  trial_id uuid not null references trial (id) on delete cascade,
  name text not null,
  output text not null,
  layers jsonb not null,
  bytes bigint not null,
  hash text not null,
  placed_at timestamptz,
  -- Hash of what this run put into its folder under that name.
  placed_hash text,
  fault text,
  primary key (run_id, name)
);
create index run_file_waits on run_file (run_id) where placed_at is null;
create index run_file_of_trial on run_file (trial_id);
