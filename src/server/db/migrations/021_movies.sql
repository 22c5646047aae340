-- Frames of a run as a movie, made on the machine that has the run's folder.
create table movie (
  id uuid primary key,
  run_id uuid not null references run (id) on delete cascade,
  picture integer not null,
  shows text not null check (shows in ('beauty', 'comp')),
  codec text not null check (codec in ('av1', 'vp9')),
  rate double precision not null,
  state text not null default 'waiting' check (state in ('waiting', 'making', 'done', 'failed')),
  fraction real not null default 0,
  fault text,
  name text,
  -- What was read back of the file.
  facts jsonb,
  -- When its maker was last heard of.
  seen_at timestamptz,
  created_at timestamptz not null default now()
);
create index movie_of_run on movie (run_id);
create index movie_waits on movie (created_at) where state in ('waiting', 'making');

-- Whether a worker puts files into the folders of runs, and makes movies there.
alter table worker add column delivers boolean not null default false;

-- What a finished frame of a run looks like in a few cells, and how far it stands out from what those beside it lead to expect.
alter table trial
  add column glance bytea,
  add column step real;
