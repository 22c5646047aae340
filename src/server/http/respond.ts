import { z } from 'zod';
import { StackError } from '@/core/comp';
import { MoodsError } from '@/core/moods';
import { OutputsError } from '@/core/outputs';
import { RecipeError } from '@/core/recipe';
import { faultWords, isAway } from '../db/away';
import { TooLarge, WrongDigest } from '../storage/blobs';
import { foreign } from './guard';

/** A refusal with its status: what, where, and what is allowed. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly path = '',
    readonly limits?: unknown,
  ) {
    super(message);
  }
}

function failure(status: number, code: string, path: string, message: string, limits?: unknown): Response {
  return Response.json({ error: { code, path, message, limits } }, { status });
}

/** Runs a handler behind the guard and turns what it throws into the documented error form. */
export async function answer(request: Request, handle: () => Promise<Response>): Promise<Response> {
  const fault = foreign(request.headers);
  if (fault) return failure(403, 'foreign', '', fault);
  try {
    return await handle();
  } catch (error) {
    if (error instanceof Refusal) return failure(error.status, error.code, error.path, error.message, error.limits);
    if (error instanceof OutputsError) return failure(400, 'outputs', `outputs.${error.path}`, error.fault);
    if (error instanceof StackError) return failure(400, 'stack', `stack.${error.path}`, error.fault);
    if (error instanceof MoodsError) return failure(400, 'moods', `moods.${error.path}`, error.fault);
    if (error instanceof RecipeError) return failure(400, 'recipe', error.path, error.fault);
    if (error instanceof z.ZodError) {
      const issue = error.issues[0];
      return failure(400, 'invalid', issue.path.join('.'), issue.message);
    }
    if (error instanceof TooLarge) return failure(413, 'too-large', '', error.message);
    if (error instanceof WrongDigest) return failure(400, 'digest', 'Content-Digest', error.message);
    if ((error as { code?: string }).code === '23505')
      return failure(409, 'taken', '', 'somebody else put the same there at the same moment: load it again');
    if (isAway(error))
      return failure(
        503,
        'database-away',
        '',
        'the database cannot be reached; what is on the page is kept, try again in a moment',
      );
    process.stderr.write(`server: ${(error as Error).stack}\n`);
    return failure(500, 'fault', '', faultWords(error));
  }
}

const MOST_JSON_BYTES = 1 << 20;
/** Scenes of tens of thousands of objects. */
export const MOST_SCENE_BYTES = 64 << 20;

/** Escapes in JSON that stand for NUL or for half a character, neither of which a database holds. */
const MAY_BE_UNSTORABLE = /\\u(0000|[dD][89a-fA-F])/;
const UNSTORABLE = /\0|\p{Surrogate}/u;

function refuseUnstorable(value: unknown, path: string[]): void {
  if (typeof value === 'string' && UNSTORABLE.test(value))
    throw new Refusal(
      400,
      'invalid',
      'the text has a sign in it that is none: NUL or half a character',
      path.join('.'),
    );
  if (typeof value !== 'object' || value === null) return;
  for (const [key, inner] of Object.entries(value)) {
    refuseUnstorable(key, path);
    refuseUnstorable(inner, [...path, key]);
  }
}

/** The JSON body of a request, at most `most` bytes, checked by a schema. */
export async function body<T>(request: Request, schema: z.ZodType<T>, most = MOST_JSON_BYTES): Promise<T> {
  if (!(request.headers.get('content-type') ?? '').startsWith('application/json'))
    throw new Refusal(415, 'not-json', 'the body must be application/json');
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const part of (request.body ?? []) as AsyncIterable<Uint8Array>) {
    size += part.length;
    if (size > most) throw new Refusal(413, 'too-large', `the body may have ${most} bytes at most`);
    chunks.push(part);
  }
  let value: unknown;
  const text = Buffer.concat(chunks).toString('utf8');
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new Refusal(400, 'not-json', (error as Error).message);
  }
  if (MAY_BE_UNSTORABLE.test(text)) refuseUnstorable(value, []);
  return schema.parse(value);
}
