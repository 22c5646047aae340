-- What a trial was predicted to come to when it was logged: noise in percent and seconds at speed 1, each with its interval.
alter table trial add column predicted jsonb;
