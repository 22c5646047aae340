-- What was last looked at, so that another browser goes on there.
create table last_desk (
  one boolean primary key default true check (one),
  desk jsonb not null
);
