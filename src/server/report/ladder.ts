import { relativeEfficiency } from '@/contract/trial';
import { distance, smoothed } from '@/core/film';
import { type Block, type ReportPage, reportHtml, type Term } from '@/core/report';
import { kneeOf, kneeWords, type LadderPoint, type Rgb } from '@/core/stats';
import { clock, percent } from '@/core/words';
import type { Sql } from '../db/connection';
import { type ShotRow, shotById } from '../db/shots';
import { type TrialRow, trialById } from '../db/trials';
import { shownFilm } from '../films/shown';
import { reportName } from './names';
import { minute, png, recipeBlock, type Seen, seen, settingText, times, titled } from './trial';

/** Steps of a ladder that a report shows. */
const MOST_STEPS = 48;

/** The steps of the ladder that a trial is one of, in their order. */
async function stepsOf(sql: Sql, { shot, ladder }: TrialRow): Promise<TrialRow[]> {
  if (!ladder) return [];
  const rows = await sql<{ id: string }[]>`
    select id from trial where shot_id = ${shot} and ladder->>'id' = ${ladder.id} order by number limit ${MOST_STEPS}`;
  const all = await Promise.all(rows.map((r) => trialById(sql, r.id)));
  return all.flatMap((t) => t ?? []);
}

const valueWords = (t: TrialRow): string => t.ladder?.at.map((a) => settingText(a.value)).join(' × ') ?? '';

/** What a ladder says of its setting: where more of it stops paying. Null where it steps two, or no numbers. */
function kneeOfSteps(of: readonly Seen[]): string | null {
  const measured = of.filter((s) => s.film && s.trial.noise && s.trial.seconds?.calibrated);
  const last = measured.at(-1);
  if (!last?.film || last.trial.ladder?.at.length !== 1) return null;
  const flat = ({ film, display }: Seen) =>
    smoothed(film!.layers.get('beauty')!.planes.slice(0, 3) as unknown as Rgb, film!.width, film!.height, display);
  const end = flat(last);
  const points = measured.flatMap((s): LadderPoint[] => {
    const { film, trial } = s;
    const value = trial.ladder!.at[0].value;
    const isLike = film!.width === last.film!.width && film!.height === last.film!.height;
    if (typeof value !== 'number' || !isLike) return [];
    const difference = distance(flat(s), end, film!.width, film!.height).rms;
    return [{ value, noise: trial.noise!.rms, seconds: trial.seconds!.calibrated!, difference }];
  });
  return points.length > 2 ? kneeWords(kneeOf(points)) : null;
}

/** A report of a ladder by one of its steps: every step with its picture, noise and time, and where more stops paying. */
export async function ladderReport(sql: Sql, of: TrialRow, version: string): Promise<{ html: string; name: string }> {
  const steps = await stepsOf(sql, of);
  if (steps.length === 0) throw new Error(`trial ${of.number} is no step of a ladder`);
  const shot = (await shotById(sql, of.shot)) as ShotRow;
  const baseline = shot.baseline ? await trialById(sql, shot.baseline) : null;
  const looked = await Promise.all(steps.map((t) => seen(sql, t)));
  const [first] = steps;
  const labels = first.ladder!.at.map((a) => a.label);
  const terms: Term[] = ['noise', 'p95', 'clock', 'calibrated', ...(baseline ? (['efficiency'] as const) : [])];
  const list = looked.flatMap((s) => {
    const shown = s.film && shownFilm(s.film, s.display);
    const caption = `${titled(s.trial)} · ${percent(s.trial.noise?.rms)} · ${clock(s.trial.seconds?.calibrated)}`;
    return shown ? [{ png: png(shown), caption }] : [];
  });
  const pictures: Block[] = list.length > 0 ? [{ kind: 'pictures', list, across: Math.min(3, list.length) }] : [];
  const state = (t: TrialRow) => (t.state === 'done' ? t.note : t.state === 'failed' ? `failed: ${t.fault}` : t.state);
  const table: Block = {
    kind: 'table',
    head: [
      'trial',
      labels.join(' × '),
      'noise',
      '95th percentile',
      'by the clock',
      'at speed 1',
      ...(baseline ? ['efficiency'] : []),
      '',
    ],
    figures: 1,
    rows: steps.map((t) => [
      titled(t),
      valueWords(t),
      percent(t.noise?.rms),
      percent(t.noise?.p95),
      clock(t.seconds?.trace),
      clock(t.seconds?.calibrated),
      ...(baseline ? [times(relativeEfficiency(t, baseline))] : []),
      state(t),
    ]),
  };
  const bars = steps.map((t) => ({
    name: valueWords(t),
    noise: t.noise?.rms ?? null,
    seconds: t.seconds?.calibrated ?? null,
    step: null,
  }));
  const knee = kneeOfSteps(looked);
  const { width, height } = first.pixels.region;
  const report: ReportPage = {
    title: `${shot.name}: ladder of ${labels.join(' × ')}`,
    about: [
      `${first.recipeName} · ${width}×${height} · camera ${first.camera} · frame ${first.frame ?? 'first'} · from ${minute(first.createdAt)}`,
      `Lantern ${version}, made ${minute(new Date())}`,
    ],
    sections: [
      { title: 'Steps', blocks: [{ kind: 'bars', each: labels.join(' × '), bars }, table] },
      {
        title: 'Where more stops paying',
        blocks: knee === null ? [] : [{ kind: 'words', text: `${labels[0]}: ${knee}.` }],
      },
      { title: 'Pictures', blocks: pictures },
      {
        title: 'Recipe of the first step',
        blocks: baseline && baseline.id !== first.id ? [recipeBlock(first, baseline)] : [],
      },
    ],
    terms,
  };
  return { html: reportHtml(report), name: await reportName(sql, of.shot, { ladder: first.number }) };
}
