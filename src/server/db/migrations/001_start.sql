create table blob (
  hash text primary key check (hash ~ '^[0-9a-f]{64}$'),
  bytes bigint not null check (bytes >= 0),
  created_at timestamptz not null default now()
);

create table blob_chunk (
  hash text not null references blob (hash) on delete cascade,
  n integer not null,
  data bytea not null,
  primary key (hash, n)
);
alter table blob_chunk alter column data set storage external;

create table shot (
  id uuid primary key,
  name text not null unique,
  position integer not null default 0,
  baseline_trial uuid,
  created_at timestamptz not null default now()
);

create table scene_revision (
  id uuid primary key,
  shot_id uuid not null references shot (id) on delete cascade,
  number integer not null,
  hash text not null,
  document jsonb not null,
  geometry text not null references blob (hash),
  created_at timestamptz not null default now(),
  unique (shot_id, number)
);

create table draft (
  shot_id uuid primary key references shot (id) on delete cascade,
  revision_id uuid not null references scene_revision (id),
  version integer not null default 1,
  recipe jsonb not null,
  updated_at timestamptz not null default now()
);

create table recipe (
  hash text primary key,
  document jsonb not null
);

create table trial (
  id uuid primary key,
  shot_id uuid not null references shot (id) on delete cascade,
  number integer not null,
  revision_id uuid not null references scene_revision (id),
  recipe_hash text not null references recipe (hash),
  camera text not null,
  parent uuid,
  title text not null,
  note text not null default '',
  starred boolean not null default false,
  state text not null default 'queued' check (state in ('queued', 'rendering', 'storing', 'done', 'stopped', 'failed')),
  stop_requested boolean not null default false,
  fraction real not null default 0,
  left_ms real,
  attempts integer not null default 0,
  fault text,
  seconds jsonb,
  noise jsonb,
  figures jsonb,
  spec jsonb,
  film text references blob (hash),
  thumbnail bytea,
  removed_at timestamptz,
  created_at timestamptz not null default now(),
  finished_at timestamptz,
  unique (shot_id, number)
);

create table film_layer (
  trial_id uuid not null references trial (id) on delete cascade,
  name text not null,
  ordinal integer not null,
  part integer not null,
  file_offset bigint not null,
  bytes bigint not null,
  primary key (trial_id, name)
);

create table mood (
  id uuid primary key,
  trial_id uuid not null references trial (id) on delete cascade,
  name text not null,
  balance jsonb not null,
  created_at timestamptz not null default now(),
  unique (trial_id, name)
);

create table machine (
  name text primary key,
  cores integer not null,
  seen_at timestamptz not null default now()
);

-- What a crash may lose: a job in progress is rendered again from the last of these, or from the start.
create unlogged table checkpoint (
  trial_id uuid primary key,
  bytes bigint not null,
  saved_at timestamptz not null default now()
);
create unlogged table checkpoint_chunk (
  trial_id uuid not null,
  n integer not null,
  data bytea not null,
  primary key (trial_id, n)
);
alter table checkpoint_chunk alter column data set storage external;

create unlogged table preview (
  trial_id uuid primary key,
  version integer not null,
  width integer not null,
  height integer not null,
  data bytea not null
);
