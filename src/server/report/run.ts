import type { RunFrame } from '@/contract/run';
import { differences, parseRecipe, settingLabel } from '@/core/recipe';
import { type Block, type ReportPage, reportHtml, type Term } from '@/core/report';
import { evenly, parseFrames, runPictures } from '@/core/runs';
import { bytes, clock, counted, percent, two } from '@/core/words';
import type { Sql } from '../db/connection';
import { moviesOf } from '../db/movies';
import { filesOfRun } from '../db/run-files';
import { framesOfRun, type RunRow } from '../db/runs';
import { revisionById, type ShotRow, shotById } from '../db/shots';
import { thumbnailOf } from '../db/trials';
import { ofRun } from '../films/manifest';
import { reportName } from './names';
import { minute, settingText } from './trial';

/** Small pictures of a report, and frames that it lists one by one. */
const [MOST_PICTURES, MOST_ROWS] = [24, 400];
const PAGE_COLUMNS = 4;

const figuresOf = (f: RunFrame) => `${f.frame} · ${percent(f.noise)} · ${clock(f.seconds)}`;

async function pictures(sql: Sql, done: readonly RunFrame[]): Promise<Block[]> {
  const list: { png: Uint8Array; caption: string }[] = [];
  for (const f of evenly(done, MOST_PICTURES)) {
    const png = await thumbnailOf(sql, f.id);
    if (png) list.push({ png, caption: figuresOf(f) });
  }
  return list.length > 0 ? [{ kind: 'pictures', list, across: PAGE_COLUMNS }] : [];
}

/** Frames that stand out, as a table: the noisiest, the slowest, the one that steps the most. */
function extremes(done: readonly RunFrame[]): Block[] {
  const most = (of: 'noise' | 'seconds' | 'step') =>
    done.reduce<RunFrame | null>((a, f) => (f[of] !== null && (!a || f[of]! > a[of]!) ? f : a), null);
  const rows = (['noise', 'seconds', 'step'] as const).flatMap((of) => {
    const f = most(of);
    if (!f) return [];
    const name = { noise: 'noisiest', seconds: 'slowest', step: 'steps the most' }[of];
    return [[name, String(f.frame), of === 'seconds' ? clock(f.seconds) : percent(f[of])]];
  });
  return rows.length > 0 ? [{ kind: 'table', head: ['', 'frame', ''], figures: 1, rows }] : [];
}

function machines(rows: readonly RunFrame[]): Block {
  const names = [...new Set(rows.flatMap((r) => r.machine ?? []))].sort();
  const lines = names.map((name) => {
    const own = rows.filter((r) => r.machine === name && r.state === 'done' && r.seconds !== null);
    const sum = own.reduce((s, r) => s + r.seconds!, 0);
    return [name, String(own.length), own.length > 0 ? clock(sum / own.length) : '–', clock(sum)];
  });
  return { kind: 'table', head: ['machine', 'frames', 'each', 'in all'], figures: 1, rows: lines };
}

/** A report of a run: what was delivered, how noisy and dear every frame was, and by what. */
export async function runReport(sql: Sql, run: RunRow, version: string): Promise<{ html: string; name: string }> {
  const shot = (await shotById(sql, run.shot)) as ShotRow;
  const document = (await revisionById(sql, run.revision))!.document;
  const all = runPictures(ofRun(run, document));
  const rows = await framesOfRun(sql, run.id);
  const files = await filesOfRun(sql, run.id);
  const terms: Term[] = ['noise', 'beside', 'step'];
  const { counts } = run;
  const named = (i: number) =>
    all.length === 1 ? '' : `picture ${i + 1} (${all[i].outputs.map((o) => o.name).join(', ') || 'the stack'})`;
  const sections = [];
  for (const [i] of all.entries()) {
    const own = rows.filter((r) => r.picture === i);
    const done = own.filter((r) => r.state === 'done');
    sections.push({
      title: ['Frames', named(i)].filter((t) => t !== '').join(': '),
      blocks: [
        ...(await pictures(sql, done)),
        ...(done.length > 0
          ? [
              {
                kind: 'bars' as const,
                each: 'frame',
                bars: own.map((f) => ({ name: String(f.frame), noise: f.noise, seconds: f.seconds, step: f.step })),
              },
            ]
          : []),
        ...extremes(done),
      ],
    });
  }
  const movies = (await moviesOf(sql, run.id)).filter((m) => m.facts);
  const set = differences(parseRecipe({ name: run.recipe.name }), run.recipe);
  const listed = evenly(rows, MOST_ROWS);
  const report: ReportPage = {
    title: `${shot.name}: run ${two(run.number)} ${run.title}`,
    about: [
      `frames ${run.frames} (${counted(parseFrames(run.frames).length, 'frame')}) · camera ${run.camera} · started ${minute(run.createdAt)}${run.endedAt ? `, ended ${minute(run.endedAt)}` : ''}`,
      `${counts.done} of ${counts.all} done${counts.failed > 0 ? `, ${counts.failed} failed` : ''} · ${counted(files.length, 'file')} of ${bytes(run.files.bytes)} in ${run.folder}`,
      `Lantern ${version}, made ${minute(new Date())}`,
    ],
    sections: [
      ...sections,
      { title: 'Machines', blocks: [machines(rows)] },
      {
        title: 'Recipe, where it differs from the defaults',
        blocks: [
          {
            kind: 'table',
            head: ['setting', run.recipe.name],
            figures: 2,
            rows: set.map(({ path, to }) => [settingLabel(path), settingText(to)]),
          },
        ],
      },
      {
        title: 'Delivered',
        blocks: [
          {
            kind: 'table',
            head: ['output', 'files', 'bytes', 'layers'],
            figures: 4,
            rows: [...new Set(files.map((f) => f.output))].map((output) => {
              const own = files.filter((f) => f.output === output);
              const layers = [...new Set(own.flatMap((f) => f.layers))];
              return [output, String(own.length), bytes(own.reduce((s, f) => s + f.bytes, 0)), layers.join(', ')];
            }),
          },
          ...(movies.length > 0
            ? [
                {
                  kind: 'table' as const,
                  head: ['movie', 'frames', 'a second', 'seconds', 'packed with'],
                  figures: 1,
                  rows: movies.map(({ name, facts: m }) => [
                    name!,
                    String(m!.frames),
                    String(m!.rate),
                    m!.seconds.toFixed(2),
                    m!.codec,
                  ]),
                },
              ]
            : []),
        ],
      },
      {
        title: listed.length < rows.length ? `Frames, ${listed.length} of ${rows.length}` : 'Frames',
        blocks: [
          {
            kind: 'table',
            head: ['frame', ...(all.length > 1 ? ['picture'] : []), 'noise', 'time', 'step', 'machine', ''],
            figures: 7,
            rows: listed.map((f) => [
              String(f.frame),
              ...(all.length > 1 ? [String(f.picture + 1)] : []),
              percent(f.noise),
              clock(f.seconds),
              percent(f.step),
              f.machine ?? '',
              f.state === 'done' ? '' : f.state === 'failed' ? `failed: ${f.fault}` : f.state,
            ]),
          },
        ],
      },
    ],
    terms,
  };
  const name = await reportName(sql, run.shot, { run: run.number });
  return { html: reportHtml(report), name };
}
