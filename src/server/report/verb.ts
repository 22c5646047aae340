import type { Sql } from '../db/connection';
import { isId } from '../db/ids';
import { listRuns, runById } from '../db/runs';
import { listShots } from '../db/shots';
import { type TrialRow, trialById } from '../db/trials';
import { ladderReport } from './ladder';
import { runReport } from './run';
import { trialReport } from './trial';

const USAGE =
  'report needs a shot and a trial: report SHOT 7 [6], a ladder by a step of it: report SHOT ladder 7, or a run: report SHOT run 5';

async function shotNamed(sql: Sql, name: string): Promise<string> {
  const shots = await listShots(sql);
  const found = shots.find((s) => s.name === name);
  if (!found) throw new Error(`there is no shot ${name}; there are ${shots.map((s) => s.name).join(', ')}`);
  return found.id;
}

async function trialOf(sql: Sql, shot: string, text: string): Promise<TrialRow> {
  const [row] = /^\d{1,9}$/.test(text)
    ? await sql<{ id: string }[]>`select id from trial where shot_id = ${shot} and number = ${Number(text)}`
    : [];
  const trial = row && (await trialById(sql, row.id));
  if (!trial) throw new Error(`the shot has no trial ${text}`);
  return trial;
}

async function known(sql: Sql, id: string): Promise<TrialRow> {
  const trial = isId(id) ? await trialById(sql, id) : null;
  if (!trial) throw new Error(`there is no trial ${id}`);
  return trial;
}

/**
 * The report that words ask for: `SHOT 7`, `SHOT 7 6` for the seventh trial against the sixth, `SHOT ladder 7` for the ladder that it is a step of, `SHOT run 5`;
 * or by identifiers, `--trial ID [ID]`, `--ladder ID` and `--run ID`. Throws in words.
 */
export async function askedReport(
  sql: Sql,
  [first, second, third]: readonly string[],
  version: string,
): Promise<{ html: string; name: string }> {
  if (first === undefined || second === undefined) throw new Error(USAGE);
  if (first === '--trial')
    return trialReport(sql, await known(sql, second), third === undefined ? null : await known(sql, third), version);
  if (first === '--ladder') return ladderReport(sql, await known(sql, second), version);
  if (first === '--run') {
    const run = isId(second) ? await runById(sql, second) : null;
    if (!run) throw new Error(`there is no run ${second}`);
    return runReport(sql, run, version);
  }
  const shot = await shotNamed(sql, first);
  if (second === 'run') {
    const line = (await listRuns(sql, shot)).find((r) => String(r.number) === third);
    const run = line && (await runById(sql, line.id));
    if (!run) throw new Error(`the shot has no run ${third ?? ''}`);
    return runReport(sql, run, version);
  }
  if (second === 'ladder') return ladderReport(sql, await trialOf(sql, shot, third ?? ''), version);
  const against = third === undefined ? null : await trialOf(sql, shot, third);
  return trialReport(sql, await trialOf(sql, shot, second), against, version);
}
