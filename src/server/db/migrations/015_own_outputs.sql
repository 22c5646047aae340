-- Outputs that were kept under their names, for all shots.
create table own_output (
  name text primary key,
  output jsonb not null,
  saved_at timestamptz not null default now()
);
