import { z } from 'zod';
import { parseOutputs } from '@/core/outputs';
import { database } from '@/server/db/connection';
import { dropOwnOutput, keepOwnOutput, listOwnOutputs } from '@/server/db/own-outputs';
import { answer, body, Refusal } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

export const GET = (request: Request) =>
  answer(request, async () => Response.json({ outputs: await listOwnOutputs(database()) }));

/** Keeps an output under its own name, for all shots. */
export const PUT = (request: Request) =>
  answer(request, async () => {
    const [output] = parseOutputs({ list: [await body(request, z.unknown())] }).list;
    await keepOwnOutput(database(), output);
    return Response.json({ name: output.name }, { status: 201 });
  });

export const DELETE = (request: Request) =>
  answer(request, async () => {
    const { name } = await body(request, z.strictObject({ name: z.string() }));
    if (!(await dropOwnOutput(database(), name)))
      throw new Refusal(404, 'no-output', `no output ${name.slice(0, 80)} is kept`, 'name');
    return Response.json({ name });
  });
