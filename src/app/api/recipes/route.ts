import { z } from 'zod';
import { isPreset, parseRecipe } from '@/core/recipe';
import { database } from '@/server/db/connection';
import { dropRecipe, keepRecipe, listRecipes } from '@/server/db/recipes';
import { answer, body, Refusal } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

export const GET = (request: Request) =>
  answer(request, async () => Response.json({ recipes: await listRecipes(database()) }));

/** Keeps a recipe under its own name. */
export const PUT = (request: Request) =>
  answer(request, async () => {
    const recipe = parseRecipe(await body(request, z.unknown()));
    if (isPreset(recipe.name))
      throw new Refusal(409, 'name-taken', `${recipe.name} ships with the product: choose another name`, 'name');
    await keepRecipe(database(), { ...recipe, region: null });
    return Response.json({ name: recipe.name }, { status: 201 });
  });

export const DELETE = (request: Request) =>
  answer(request, async () => {
    const { name } = await body(request, z.strictObject({ name: z.string() }));
    if (!(await dropRecipe(database(), name)))
      throw new Refusal(404, 'no-recipe', `there is no recipe ${name.slice(0, 80)}`, 'name');
    return Response.json({ name });
  });
