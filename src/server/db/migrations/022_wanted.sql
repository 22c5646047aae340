-- When somebody wants the run to be done.
alter table run add column wanted_at timestamptz;
