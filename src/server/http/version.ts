import { readFileSync } from 'node:fs';
import { join } from 'node:path';

/** The program's version. */
export const version = (): string =>
  JSON.parse(readFileSync(join(process.cwd(), 'package.json'), 'utf8')).version as string;
