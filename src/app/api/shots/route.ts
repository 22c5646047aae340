import { z } from 'zod';
import { canonicalJson, PRESETS, parseRecipe } from '@/core/recipe';
import { sha256 } from '@/render/node-files';
import { database } from '@/server/db/connection';
import { addShot, listShots } from '@/server/db/shots';
import { sentScene } from '@/server/http/find';
import { answer, body, MOST_SCENE_BYTES, Refusal } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

export const GET = (request: Request) =>
  answer(request, async () => {
    const [shots, removed] = await Promise.all([listShots(database()), listShots(database(), true)]);
    return Response.json({ shots, removed });
  });

/** Adds a shot of a scene whose content has been put before. */
export const POST = (request: Request) =>
  answer(request, async () => {
    const sent = await body(
      request,
      z.strictObject({ name: z.string().trim().min(1).max(120), scene: z.unknown(), recipe: z.unknown().optional() }),
      MOST_SCENE_BYTES,
    );
    const document = { ...(await sentScene(sent.scene)), name: sent.name };
    const recipe =
      sent.recipe === undefined
        ? parseRecipe({
            ...PRESETS.Check,
            size: { ...PRESETS.Check.size, width: document.width, height: document.height },
          })
        : parseRecipe(sent.recipe);
    const id = await addShot(
      database(),
      sent.name,
      { document, geometry: document.geometry.hash, hash: sha256(canonicalJson(document)) },
      recipe,
    );
    if (!id) throw new Refusal(409, 'name-taken', `there is a shot ${sent.name} already`, 'name');
    return Response.json({ id, name: sent.name }, { status: 201 });
  });
