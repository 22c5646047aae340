import { comparable, relativeEfficiency, type TrialLine } from '@/contract/trial';
import { readNamed } from '@/core/cut';
import { type FilmLayers, LAYER, layerInfo, PARTINGS, tally } from '@/core/film';
import { type Display, displayOf, encodePng } from '@/core/image';
import { differences, SETTINGS, settingLabel } from '@/core/recipe';
import { type Block, type ReportPage, reportHtml, type Section, TERM_WORDS, type Term } from '@/core/report';
import { pictureErrors, type Rgb } from '@/core/stats';
import { clock, count, counted, percent, two, words } from '@/core/words';
import type { Sql } from '../db/connection';
import { denoisedOf } from '../db/denoised';
import { revisionById, type ShotRow, shotById } from '../db/shots';
import { layersOf, listTrials, type TrialRow, trialById } from '../db/trials';
import { openFilm, readLayers } from '../films/open';
import { type ShownFrame, shownFilm } from '../films/shown';
import { reportName } from './names';

/** Trials that a report lists, the last ones first. */
const MOST_TRIED = 60;
/** Rows of a list of shares. */
const MOST_SHARES = 12;

export const titled = (t: Pick<TrialLine, 'number' | 'title'>) => `${two(t.number)} ${t.title}`;
export const png = ({ width, height, rgb }: ShownFrame) => encodePng(width, height, rgb, 3);
/** A moment to the minute. */
export const minute = (at: string | Date) => `${new Date(at).toISOString().slice(0, 16).replace('T', ' ')} UTC`;

/** Values of settings as a report writes them. */
export function settingText(value: unknown): string {
  if (value === null || value === false) return 'off';
  if (value === true) return 'on';
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}

/** A finished trial with what of its film is looked at. */
export interface Seen {
  trial: TrialRow;
  film: FilmLayers | null;
  denoised: FilmLayers | null;
  display: Display;
}

export async function seen(sql: Sql, trial: TrialRow): Promise<Seen> {
  const document = (await revisionById(sql, trial.revision))?.document;
  const camera = document?.cameras.find((c) => c.name === trial.camera) ?? document?.cameras[0];
  const display = document && camera ? displayOf(camera.exposure, document.look) : 1;
  const beautyOf = (hash: string | null) => (hash ? readLayers(sql, hash, (name) => name === 'beauty') : null);
  const made = await denoisedOf(sql, trial.id);
  const denoised = made?.state === 'done' ? made.result : null;
  return { trial, film: await beautyOf(trial.film), denoised: await beautyOf(denoised), display };
}

/** The displayed difference of two pictures, eight times as bright. */
function differenceOf(a: ShownFrame, b: ShownFrame): ShownFrame {
  return { ...a, rgb: a.rgb.map((v, i) => Math.min(255, Math.abs(v - b.rgb[i]) * 8)) };
}

function pictures({ own, other }: { own: Seen; other: Seen | null }, terms: Term[]): Block[] {
  const list: { png: Uint8Array; caption: string }[] = [];
  const shown = (s: Seen) => s.film && shownFilm(s.film, s.display);
  const [a, b] = [shown(own), other && shown(other)];
  if (a) list.push({ png: png(a), caption: `${titled(own.trial)}, as rendered` });
  const clean = own.denoised && shownFilm(own.denoised, own.display);
  if (clean) list.push({ png: png(clean), caption: `${titled(own.trial)}, denoised` });
  if (b) list.push({ png: png(b), caption: `${titled(other!.trial)}, as rendered` });
  if (a && b && a.width === b.width && a.height === b.height) {
    list.push({ png: png(differenceOf(a, b)), caption: 'difference of the two as rendered, ×8' });
    terms.push('difference');
  }
  return list.length > 0 ? [{ kind: 'pictures', list, across: list.length === 1 ? 1 : 2 }] : [];
}

const interval = ({ value, low, high }: { value: number; low: number; high: number }, say: (v: number) => string) =>
  `${say(value)} (${say(low)}–${say(high)})`;

/** Figures of one trial or two beside each other, one a row. */
function figures(of: readonly TrialRow[], baseline: TrialLine | null, terms: Term[]): Block {
  const rows: { term: Term; say: (t: TrialRow) => string }[] = [
    { term: 'noise', say: (t) => percent(t.noise?.rms) },
    { term: 'p95', say: (t) => percent(t.noise?.p95) },
    { term: 'worst', say: (t) => percent(t.noise?.worstCell) },
    { term: 'residual', say: (t) => percent(t.denoised?.residual?.rms) },
    { term: 'clock', say: (t) => clock(t.seconds?.trace) },
    { term: 'calibrated', say: (t) => clock(t.seconds?.calibrated) },
    { term: 'efficiency', say: (t) => times(relativeEfficiency(t, baseline)) },
    {
      term: 'samples',
      say: ({ figures: f }) => (f ? `${count(f.samples)} (${f.sampleRange[0]}–${f.sampleRange[1]})` : '–'),
    },
    { term: 'rays', say: (t) => count(t.figures?.rays.total) },
  ];
  const told = rows
    .map(({ term, say }) => ({ term, cells: of.map(say) }))
    .filter(({ cells }) => cells.some((c) => c !== '–'));
  terms.push(...told.map((r) => r.term));
  const head = ['', ...of.map(titled)];
  return { kind: 'table', head, figures: 1, rows: told.map(({ term, cells }) => [rowWords(term, baseline), ...cells]) };
}

export const times = (gain: number | null) => (gain === null ? '–' : `×${gain.toFixed(2)}`);
const rowWords = (term: Term, baseline: TrialLine | null) =>
  term === 'efficiency' && baseline ? `efficiency, against ${two(baseline.number)}` : TERM_WORDS[term];

function prediction({ predicted, noise, seconds }: TrialRow, terms: Term[]): Block[] {
  if (!predicted) return [];
  terms.push('predicted');
  const rows = [
    ['noise', interval(predicted.noise, percent), percent(noise?.rms)],
    ['time at speed 1', interval(predicted.seconds, clock), clock(seconds?.calibrated)],
  ];
  return [{ kind: 'table', head: ['', 'predicted', 'measured'], figures: 1, rows }];
}

function errors(own: Seen, other: Seen, terms: Term[]): Block[] {
  const [a, b] = [own.film?.layers.get('beauty'), other.film?.layers.get('beauty')];
  const { width, height } = own.film ?? { width: 0, height: 0 };
  if (!a || !b || other.film!.width !== width || other.film!.height !== height) return [];
  const { errors: e } = pictureErrors(
    b.planes as unknown as Rgb,
    a.planes as unknown as Rgb,
    width,
    height,
    own.display,
  );
  terms.push('rmse', 'psnr', 'ssim', 'flip');
  const psnr = Number.isFinite(e.psnr) ? `${e.psnr.toFixed(1)} dB` : 'the same picture';
  const rows = [
    ['RMSE', e.rmse.toPrecision(3)],
    ['PSNR', psnr],
    ['SSIM', e.ssim.toFixed(4)],
    ['FLIP', e.flip.toFixed(4)],
  ];
  return [{ kind: 'table', head: [`${titled(own.trial)} against ${titled(other.trial)}`, ''], figures: 1, rows }];
}

/** Settings in which a recipe differs from another. */
export function recipeBlock(own: TrialRow, other: TrialRow): Block {
  const rows = differences(other.recipe, own.recipe).map(({ path, from, to }) => [
    settingLabel(path),
    settingText(from),
    settingText(to),
    SETTINGS[path]?.unit ?? '',
  ]);
  if (rows.length === 0) return { kind: 'words', text: `The same as that of ${titled(other)}.` };
  return { kind: 'table', head: ['setting', titled(other), titled(own), ''], figures: 4, rows };
}

function sources({ figures: f }: TrialRow, terms: Term[]): Section[] {
  const out: Section[] = [];
  const ranked = (rows: { name: string; share: number }[]) =>
    rows
      .filter((r) => r.share > 0.0005)
      .sort((a, b) => b.share - a.share)
      .slice(0, MOST_SHARES);
  if (f?.shares) {
    terms.push('share');
    const rows = f.shares.groupClass.map((g) => ({ name: `${words(g.group)}, ${words(g.pathClass)}`, share: g.share }));
    out.push({
      title: 'Where the noise comes from, by light and path',
      blocks: [{ kind: 'shares', rows: ranked(rows) }],
    });
  }
  if (f?.objects) {
    const rows = f.objects.map((o) => ({ name: o.object ?? 'sky, light shapes and the rest', share: o.noise }));
    out.push({ title: 'Where the noise comes from, by object', blocks: [{ kind: 'shares', rows: ranked(rows) }] });
  }
  if (f?.times) {
    terms.push('time');
    const rows = Object.entries(f.times).map(([kind, share]) => ({ name: `${kind} rays`, share }));
    out.push({ title: 'Where the time goes', blocks: [{ kind: 'shares', rows: ranked(rows) }] });
  }
  return out;
}

/** Whether the parts of a stored film add up: part by part, so that one is in memory beside the sum. */
async function tallies(sql: Sql, { trial, film }: Seen, terms: Term[]): Promise<Block[]> {
  const opened = trial.film && film ? await openFilm(sql, trial.film) : null;
  if (!opened || !film) return [];
  const names = (await layersOf(sql, trial.id)).map((l) => l.name);
  const rows: string[][] = [];
  for (const parting of PARTINGS) {
    const parts = names.filter((n) => layerInfo(n).family === parting || n === LAYER.rest(parting));
    if (parts.length === 0) continue;
    const sums = [0, 1, 2].map(() => new Float64Array(film.width * film.height));
    for (const name of parts) {
      const { planes } = (await readNamed(opened, (n) => n === name)).layers.get(name)!;
      sums.forEach((sum, c) => {
        for (let i = 0; i < sum.length; i++) sum[i] += planes[c][i];
      });
    }
    const whole = { ...film.layers.get('beauty')!, name: parts[0], planes: sums.map((s) => Float32Array.from(s)) };
    const found = tally({ ...film, layers: new Map([...film.layers, [parts[0], whole]]) }, parting)!;
    const decibels = Number.isFinite(found.decibels) ? `${found.decibels.toFixed(0)} dB` : 'exact';
    rows.push([`${counted(parts.length, 'part')} by ${parting}`, found.maxError.toExponential(2), decibels]);
  }
  if (rows.length === 0) return [];
  terms.push('tally');
  return [{ kind: 'table', head: ['', 'largest', 'RMS'], figures: 1, rows }];
}

/** What was tried: the logbook, newest first. */
function tried(trials: readonly TrialLine[], total: number, baseline: TrialLine | null): Block[] {
  const state = (t: TrialLine) => (t.state === 'done' ? '' : t.state === 'failed' ? `failed: ${t.fault}` : t.state);
  const rows = trials.map((t) => [
    `${titled(t)}${t.starred ? ' ★' : ''}`,
    percent(t.noise?.rms),
    clock(t.seconds?.calibrated),
    times(relativeEfficiency(t, baseline)),
    [state(t), t.note].filter((s) => s !== '').join(' · '),
  ]);
  const head = ['trial', 'noise', 'time at speed 1', 'efficiency', ''];
  const more =
    total > trials.length
      ? [{ kind: 'words' as const, text: `${total - trials.length} earlier ones are in the logbook.` }]
      : [];
  return [{ kind: 'table', head, figures: 1, rows }, ...more];
}

/** A report of a trial, or of one against another: what it looks like, how noisy and dear it is, why, and what was tried. */
export async function trialReport(
  sql: Sql,
  trial: TrialRow,
  against: TrialRow | null,
  version: string,
): Promise<{ html: string; name: string }> {
  const shot = (await shotById(sql, trial.shot)) as ShotRow;
  const own = await seen(sql, trial);
  const other = against && (await seen(sql, against));
  const baseline = shot.baseline ? await trialById(sql, shot.baseline) : null;
  const measure = against ?? baseline;
  const page = await listTrials(sql, trial.shot, null, MOST_TRIED);
  const terms: Term[] = [];
  const { width, height } = trial.pixels.region;
  const isLike = against === null || comparable(trial, against);
  const report: ReportPage = {
    title: `${shot.name}: ${titled(trial)}${against ? ` against ${titled(against)}` : ''}`,
    about: [
      `${trial.recipeName} · ${width}×${height} · camera ${trial.camera} · frame ${trial.frame ?? 'first'} · ${minute(trial.createdAt)}`,
      `Lantern ${version}, made ${minute(new Date())}`,
      ...(trial.note ? [trial.note] : []),
      ...(isLike
        ? []
        : ['The two do not render the same pixels of the same scene: their noise and time do not compare.']),
    ],
    sections: [
      { title: 'Pictures', blocks: pictures({ own, other }, terms) },
      {
        title: 'Figures',
        blocks: [
          figures(against ? [trial, against] : [trial], measure, terms),
          ...prediction(trial, terms),
          ...(other && isLike ? errors(own, other, terms) : []),
        ],
      },
      {
        title: 'Recipe',
        blocks: measure && measure.id !== trial.id ? [recipeBlock(trial, measure)] : [],
      },
      ...sources(trial, terms),
      { title: 'Whether the parts add up', blocks: await tallies(sql, own, terms) },
      { title: 'What was tried', blocks: tried(page.trials, page.total, baseline) },
    ],
    terms,
  };
  const name = await reportName(sql, trial.shot, { trial: trial.number, against: against?.number });
  return { html: reportHtml(report), name };
}
