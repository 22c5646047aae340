import { draftChangeSchema } from '@/contract/shot';
import { parseStack } from '@/core/comp';
import { parseMoods } from '@/core/moods';
import { parseOutputs } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import { announce, database } from '@/server/db/connection';
import { draftOf, saveDraft } from '@/server/db/shots';
import { findShot } from '@/server/http/find';
import { answer, body, MOST_SCENE_BYTES, Refusal } from '@/server/http/respond';
import { sentScene } from '@/server/http/sent-scene';

/** Saves the draft's recipe, scene, outputs, moods, stack, or several of them. `If-Match` carries the version it was made from; a stale one gets 409 and the newer draft. */
export const PATCH = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    const version = Number(request.headers.get('if-match'));
    if (!(Number.isInteger(version) && version > 0 && version < 2 ** 31))
      throw new Refusal(400, 'no-version', 'If-Match must carry the draft version', 'if-match');
    const sent = await body(request, draftChangeSchema, MOST_SCENE_BYTES);
    const sql = database();
    const next = await saveDraft(sql, shot.id, version, {
      recipe: sent.recipe === undefined ? undefined : parseRecipe(sent.recipe),
      scene: sent.scene === undefined ? undefined : await sentScene(sent.scene),
      outputs: sent.outputs === undefined ? undefined : parseOutputs(sent.outputs),
      moods: sent.moods === undefined ? undefined : parseMoods(sent.moods),
      stack: sent.stack === undefined ? undefined : parseStack(sent.stack),
    });
    if (next === null)
      throw new Refusal(409, 'stale', 'the draft was changed in another tab', 'version', await draftOf(sql, shot.id));
    await announce(sql, { type: 'draft', shot: shot.id, version: next, by: sent.by ?? '' });
    return Response.json({ version: next });
  });
