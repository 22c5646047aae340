import { two } from '@/core/words';
import type { Sql } from '../db/connection';
import { shotById } from '../db/shots';

/** The file that a report is saved as. */
export async function reportName(
  sql: Sql,
  shot: string,
  of: { run: number } | { ladder: number } | { trial: number; against?: number },
): Promise<string> {
  const name = ((await shotById(sql, shot))?.name ?? 'shot').replace(/[^A-Za-z0-9._-]+/g, '-');
  if ('run' in of) return `${name}-run${two(of.run)}-report.html`;
  if ('ladder' in of) return `${name}-ladder-from-${two(of.ladder)}-report.html`;
  return `${name}-${two(of.trial)}${of.against === undefined ? '' : `-against-${two(of.against)}`}-report.html`;
}
