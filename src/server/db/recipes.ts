import { parseRecipe, type Recipe } from '@/core/recipe';
import type { Sql } from './connection';

/** Recipes kept under names of their own, by name. */
export async function listRecipes(sql: Sql): Promise<Recipe[]> {
  const rows = await sql<{ recipe: unknown }[]>`select recipe from own_recipe order by name`;
  return rows.map((r) => parseRecipe(r.recipe));
}

/** Keeps a recipe under its name, in the place of one that has it. */
export async function keepRecipe(sql: Sql, recipe: Recipe): Promise<void> {
  await sql`insert into own_recipe (name, recipe) values (${recipe.name}, ${sql.json(recipe as never)})
            on conflict (name) do update set recipe = excluded.recipe, saved_at = now()`;
}

export async function dropRecipe(sql: Sql, name: string): Promise<boolean> {
  const rows = await sql`delete from own_recipe where name = ${name} returning name`;
  return rows.length > 0;
}
