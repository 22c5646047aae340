import { database } from '@/server/db/connection';
import { findShot } from '@/server/http/find';
import { packageOf } from '@/server/http/package';
import { answer } from '@/server/http/respond';
import { streamOf } from '@/server/http/stream';
import { version } from '@/server/http/version';

export const dynamic = 'force-dynamic';

/** A shot with all of its content as one .tar, which another machine brings in, or the command line renders. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    const tar = await packageOf(database(), shot, `lantern ${version()}`);
    return new Response(streamOf(tar), {
      headers: {
        'content-type': 'application/x-tar',
        'content-disposition': `attachment; filename="${shot.name.replace(/[^A-Za-z0-9._-]+/g, '-')}.tar"`,
        'cache-control': 'no-store',
      },
    });
  });
