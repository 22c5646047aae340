-- What is set for a machine from a page: how many threads render on it (null: as its workers were started), and whether it takes work.
alter table machine
  add column threads integer,
  add column drained boolean not null default false;

-- A process that renders.
create table worker (
  id uuid primary key,
  machine text not null references machine (name) on delete cascade,
  threads integer not null,
  mark text not null,
  -- Calibrated seconds a second, of what it traced last.
  speed double precision,
  trial_id uuid,
  seen_at timestamptz not null default now()
);

-- What the server was built from: a worker that was built from something else makes other pictures.
create table house (
  one boolean primary key default true check (one),
  mark text not null
);
