-- What denoising made of a trial's film, beside it: of `film`, so that a trial that went on has none any more.
create table denoised (
  trial_id uuid primary key references trial (id) on delete cascade,
  film text not null,
  state text not null default 'queued' check (state in ('queued', 'filtering', 'storing', 'judging', 'done', 'stopped', 'failed')),
  stop_requested boolean not null default false,
  fraction real not null default 0,
  left_ms real,
  attempts integer not null default 0,
  holder uuid,
  fault text,
  -- The part of the picture that comes first.
  first jsonb,
  strengths jsonb not null,
  residual jsonb,
  figures jsonb,
  result text references blob (hash),
  -- Pixels rendered anew, that it is held against.
  patches jsonb,
  pixels bytea,
  created_at timestamptz not null default now()
);

create table denoised_layer (
  trial_id uuid not null references denoised (trial_id) on delete cascade,
  name text not null,
  ordinal integer not null,
  part integer not null,
  primary key (trial_id, name)
);
