-- A shot that has been taken out of the list, with all its trials, until it is put back.
alter table shot add column removed_at timestamptz;
