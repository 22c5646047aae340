import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { Refusal } from './respond';

/** A report made by a process of its own, since pictures are read and compared for it; to be saved under a name. */
export async function reportResponse(words: readonly string[], name: string): Promise<Response> {
  const child = spawn(process.execPath, [join(process.cwd(), 'build/worker.mjs'), 'report', ...words, '-']);
  const parts: Buffer[] = [];
  let fault = '';
  child.stdout.on('data', (d: Buffer) => parts.push(d));
  child.stderr.on('data', (d) => {
    fault = (fault + d).slice(-2000);
  });
  const code = await new Promise<number | null>((resolve) => {
    child.on('error', () => resolve(null));
    child.on('close', resolve);
  });
  if (code !== 0)
    throw new Refusal(500, 'report', fault.trim().split('\n').at(-1) || 'the report could not be made', 'id');
  return new Response(new Uint8Array(Buffer.concat(parts)), {
    headers: {
      'content-type': 'text/html; charset=utf-8',
      'content-disposition': `attachment; filename="${name}"`,
      'cache-control': 'no-store',
    },
  });
}
