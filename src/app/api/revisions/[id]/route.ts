import { database } from '@/server/db/connection';
import { isId } from '@/server/db/ids';
import { revisionById } from '@/server/db/shots';
import { answer, Refusal } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

/** A scene revision with its document. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const { id } = await params;
    const revision = isId(id) ? await revisionById(database(), id) : null;
    if (!revision) throw new Refusal(404, 'no-revision', `there is no scene revision ${id.slice(0, 40)}`, 'id');
    return Response.json({ revision });
  });
