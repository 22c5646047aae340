-- Which ladder a trial is a step of, and the settings that the step stands for.
alter table trial add column ladder jsonb;
