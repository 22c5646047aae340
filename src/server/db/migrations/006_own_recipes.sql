-- Recipes that were kept under names of their own, for all shots.
create table own_recipe (
  name text primary key,
  recipe jsonb not null,
  saved_at timestamptz not null default now()
);
