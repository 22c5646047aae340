import { hostname, userInfo } from 'node:os';
import type { Workers } from '@/contract/worker';
import type { Sql } from '../db/connection';
import { listWorkers } from '../db/workers';

/**
 * How another machine's worker joins: the database listens on loopback alone, so its port is led there by SSH, and the program is
 * told of it.
 */
function joining(): string[] {
  const url = process.env.DATABASE_URL;
  if (!url) return [];
  const { port } = new URL(url);
  return [
    `ssh -fN -L ${port}:127.0.0.1:${port} ${userInfo().username}@${hostname()}`,
    `DATABASE_URL='${url}' bin/lantern worker`,
  ];
}

/** Workers that were heard of lately, and how another machine's joins them. */
export const workersNow = async (sql: Sql): Promise<Workers> => ({ workers: await listWorkers(sql), join: joining() });
