-- The live picture went on while the trial was rendered: its time says nothing.
alter table trial add column untimed boolean not null default false;
