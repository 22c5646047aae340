-- The stack over the shot's films; null until somebody has put one together.
alter table draft add column stack jsonb;
