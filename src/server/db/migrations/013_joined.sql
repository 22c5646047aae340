-- Whether a denoised film is to be joined with the frames about it.
alter table denoised add column joins boolean not null default false;
-- Whether what it has is to be made anew; until then it stays.
alter table denoised add column anew boolean not null default false;
