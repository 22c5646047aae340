import { database } from '@/server/db/connection';
import { listRevisions } from '@/server/db/shots';
import { findShot } from '@/server/http/find';
import { answer } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

/** The scene revisions of a shot, newest first, each with what it changed. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    return Response.json({ revisions: await listRevisions(database(), shot.id) });
  });
