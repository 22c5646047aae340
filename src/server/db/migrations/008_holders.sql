-- What a stopped trial needs to go on is as good as promised: a crash must not empty it.
alter table checkpoint set logged;
alter table checkpoint_chunk set logged;
-- Which attempt renders a trial: an earlier one that has been given up for dead may not write any more.
alter table trial add column holder uuid;
-- Sent with a trial, so that what is sent twice is logged once.
alter table trial add column key uuid unique;
