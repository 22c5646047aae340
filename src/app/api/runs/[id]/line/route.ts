import { database } from '@/server/db/connection';
import { isId } from '@/server/db/ids';
import { runLine } from '@/server/db/runs';
import { answer } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

/** A run as the list tells it; null when it is not in it. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const { id } = await params;
    return Response.json({ run: isId(id) ? await runLine(database(), id) : null });
  });
