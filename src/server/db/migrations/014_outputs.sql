-- What leaves a shot, and in which files; null until somebody has chosen.
alter table draft add column outputs jsonb;
-- The same as it stood when the trial was logged; null for trials from before.
alter table trial add column outputs jsonb;
