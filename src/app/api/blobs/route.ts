import { database } from '@/server/db/connection';
import { putSentContent } from '@/server/http/content';
import { answer } from '@/server/http/respond';

/** Stores content once by its hash: all of it or nothing. */
export const PUT = (request: Request) =>
  answer(request, async () => Response.json(await putSentContent(database(), request), { status: 201 }));
