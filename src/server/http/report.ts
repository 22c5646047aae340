import { readFileSync } from 'node:fs';
import { join } from 'node:path';

/** The program's version. */
export const version = (): string =>
  JSON.parse(readFileSync(join(process.cwd(), 'package.json'), 'utf8')).version as string;

/** A report to be saved under its name. */
export const reportResponse = ({ html, name }: { html: string; name: string }) =>
  new Response(html, {
    headers: {
      'content-type': 'text/html; charset=utf-8',
      'content-disposition': `attachment; filename="${name}"`,
      'cache-control': 'no-store',
    },
  });
