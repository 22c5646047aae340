-- Pictures of a run, by their numbers, whose films its stack takes: the frame of its own picture waits for them.
alter table run add column taken integer[] not null default '{}';
