import { askDenoisedSchema, strengthsSchema } from '@/contract/denoised';
import { database } from '@/server/db/connection';
import { changeStrengths, startDenoising, wholeOf } from '@/server/http/denoised';
import { findTrial } from '@/server/http/find';
import { answer, body } from '@/server/http/respond';

type Context = { params: Promise<{ id: string }> };

/** What denoising made of a trial's film, whole; null where it has not been denoised. */
export const GET = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const { id } = await findTrial((await params).id);
    return Response.json({ denoised: await wholeOf(database(), id) });
  });

/** Has a trial's film denoised; nothing happens where it is under way or done. */
export const POST = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const asked = await body(request, askDenoisedSchema);
    return Response.json({ asked: await startDenoising(database(), await findTrial((await params).id), asked) });
  });

/** Takes other strengths of it. */
export const PATCH = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const strengths = await body(request, strengthsSchema);
    const residual = await changeStrengths(database(), await findTrial((await params).id), strengths);
    return Response.json({ residual });
  });
