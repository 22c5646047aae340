-- A draft may hold a scene that differs from its revision; logging a trial makes it the next revision.
alter table draft add column scene jsonb;
-- What a revision changed against the one before it, in words.
alter table scene_revision add column words jsonb not null default '[]';
alter table trial add column frame integer;
