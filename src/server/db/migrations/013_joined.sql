-- Whether a denoised film is to be joined with the frames about it.
alter table denoised add column joins boolean not null default false;
