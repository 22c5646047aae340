-- Trials that were logged to have something to show at a first start; shots that have had theirs get no others.
alter table trial add column sample boolean not null default false;
alter table shot add column sampled boolean not null default false;
