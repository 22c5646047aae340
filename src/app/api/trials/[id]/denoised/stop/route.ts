import { announce, database } from '@/server/db/connection';
import { stopDenoised } from '@/server/db/denoised';
import { findTrial } from '@/server/http/find';
import { answer } from '@/server/http/respond';

/** Asks for the denoising of a trial's film to stop; the film itself stays as it is. */
export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const { id, shot, state } = await findTrial((await params).id);
    const asked = await stopDenoised(database(), id);
    if (asked) await announce(database(), { type: 'trial', id, shot, state });
    return Response.json({ asked });
  });
