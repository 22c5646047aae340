import { newRunSchema } from '@/contract/run';
import { database } from '@/server/db/connection';
import { findShot } from '@/server/http/find';
import { answer, body } from '@/server/http/respond';
import { roomFor } from '@/server/http/runs';

/** What the server's machine has to say of a run before it starts: its folder, what is there already, content that is missing. */
export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    const asked = await body(request, newRunSchema.pick({ frames: true, camera: true, folder: true, comp: true }));
    return Response.json({ room: await roomFor(database(), shot, asked) });
  });
