import { boxHeight, boxWidth, type ExrFile, isLossy, layersInFile } from '@/core/exr';
import {
  type FilmLayers,
  LAYER,
  layerInfo,
  type Parting,
  partNoise,
  TALLY_LIMITS,
  type Tally,
  tally,
} from '@/core/film';
import { causesOf, causeWords, type PartOf } from '@/core/proof';
import { noiseOf, type Rgb } from '@/core/stats';
import { one, parseArguments, print, UsageError } from './args';
import { readLayers, withExr } from './exr-files';
import { factorsIn, moodOf } from './moods';

function onePath(verb: string, positional: string[]): string {
  if (positional.length !== 1) throw new UsageError(`${verb} needs one .exr file`);
  return positional[0];
}

/** `lantern info`: parts, channels and attributes of an OpenEXR file. */
export async function info(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { json: 'value' });
  await withExr(onePath('info', args.positional), async (source, file) => {
    const parts = file.parts.map((p) => ({
      name: p.name,
      width: boxWidth(p.dataWindow),
      height: boxHeight(p.dataWindow),
      at: [p.dataWindow.xMin, p.dataWindow.yMin],
      compression: p.compression,
      channels: p.channels.map((c) => `${c.name} ${c.type}`),
      attributes: Object.fromEntries(Object.entries(p.attributes).map(([k, v]) => [k, v.value])),
    }));
    const first = parts[0];
    const lines = [
      `${source.size} bytes, ${parts.length} part${parts.length > 1 ? 's' : ''}, ${first.width}×${first.height} at ${first.at.join(',')}`,
    ];
    for (const p of parts) lines.push(`  ${p.name || '(single part)'}  ${p.compression}  ${p.channels.join(', ')}`);
    for (const [k, v] of Object.entries(first.attributes)) if (k.startsWith('lantern:')) lines.push(`  ${k} = ${v}`);
    print(one(args, 'json') === '-', { bytes: source.size, parts }, `${lines.join('\n')}\n`);
  });
  return 0;
}

/** Light groups that a film says it was rendered with, and that are not among its parts. */
function absentGroups({ parts }: ExrFile, has: readonly string[]): string[] {
  const stem = 'lantern:emits.';
  const groups = parts.flatMap((p) => Object.keys(p.attributes)).filter((a) => a.startsWith(stem));
  return [...new Set(groups.map((a) => a.slice(stem.length)))].filter((g) => !has.includes(LAYER.group(g)));
}

/** Below this share of the light nothing is said to be left out. */
const LEFT_OUT = 1e-3;

/** Why parts do not add up, one line each: what was found by experiment, else what is left out, else how the file is packed. */
function whyNot(
  film: FilmLayers,
  { parts, missing }: Tally,
  file: ExrFile,
  absent: readonly string[],
  storage: keyof typeof TALLY_LIMITS,
): string[] {
  const light = (name: string): PartOf => ({ name, planes: film.layers.get(name)!.planes });
  // Of our own layers none is a part under another name: halves and classes may look like what is missing.
  const isForeign = (name: string) => {
    const { family, feature } = layerInfo(name);
    return family === 'feature' && feature === null;
  };
  const others = [...film.layers.values()]
    .filter((l) => l.kind === 'color' && l.planes.length === 3 && isForeign(l.name))
    .map((l) => light(l.name));
  const held = { ...film, beauty: film.layers.get('beauty')!.planes, parts: parts.map(light) };
  const causes = causesOf(held, others, TALLY_LIMITS[storage]).map(causeWords);
  const found = causes.map(({ cause, repair }) => `${cause}; ${repair}`);
  const share = `${Math.abs(missing * 100).toFixed(2)} % of the light`;
  if (absent.length > 0)
    found.push(
      `left out: light ${absent.length === 1 ? 'group' : 'groups'} ${absent.join(', ')}; ${share} is in no part`,
    );
  if (found.length > 0) return found;
  if (Math.abs(missing) > LEFT_OUT)
    return [`${share} is ${missing > 0 ? 'in no part' : 'in the parts and not in the beauty'}`];
  const lossy = file.parts.find((p) => isLossy(p.compression));
  if (lossy) return [`packed by ${lossy.compression.toUpperCase()}, which loses; pack by ZIP`];
  return storage === 'half' ? ['stored as half, which rounds; write float'] : [];
}

/** `lantern tally`: whether parts sum to the beauty; exit 1 when they do not. */
export async function tallyVerb(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { parts: 'value', json: 'value' });
  const parting = one(args, 'parts') ?? 'group';
  if (parting !== 'group' && parting !== 'class' && parting !== 'bounce')
    throw new UsageError(`--parts ${parting}: must be group, class or bounce`);
  const path = onePath('tally', args.positional);
  return withExr(path, async (source, file) => {
    const film = await readLayers(source, file);
    const result = tally(film, parting as Parting);
    if (!result) throw new UsageError(`${path}: holds no beauty or no ${parting} parts`);
    // By their layers: channels may be called by more than the names of those.
    const held = layersInFile(file.parts).filter((l) => l.name === 'beauty' || result.parts.includes(l.name));
    const isHalf = held.some((l) => l.channels.some((c) => file.parts[l.part].channels[c].type === 'half'));
    const storage = isHalf ? 'half' : 'float';
    const limit = TALLY_LIMITS[storage];
    const ok = result.maxError <= limit;
    const { map: _, ...figures } = result;
    const absent = ok || parting !== 'group' ? [] : absentGroups(file, result.parts);
    const why = ok ? [] : whyNot(film, result, file, absent, storage);
    print(
      one(args, 'json') === '-',
      { ...figures, storage, limit, addsUp: ok, absent, why },
      `${result.parts.length} parts by ${parting}, stored as ${storage}: max ${result.maxError.toExponential(2)}, RMS ${result.rmsError.toExponential(2)} (${result.decibels.toFixed(1)} dB); ${ok ? 'adds up' : 'does not add up'} (limit ${limit.toExponential(0)})\n${why.map((line) => `  ${line}\n`).join('')}`,
    );
    return ok ? 0 : 1;
  });
}

/** `lantern measure`: noise of a film from its halves, at the exposure it was rendered for, as rendered or in a mood. */
export async function measure(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { mood: 'value', json: 'value' });
  const path = onePath('measure', args.positional);
  const moodPath = one(args, 'mood');
  const mood = moodPath === undefined ? null : await moodOf(moodPath);
  await withExr(path, async (source, file) => {
    const film = await readLayers(source, file);
    const written = file.parts[0].attributes['lantern:exposure'];
    const exposure = written?.type === 'double' ? written.value : 1;
    const noiseBetween = (a: string, b: string) => {
      const [p, q] = [film.layers.get(a), film.layers.get(b)];
      return p && q
        ? noiseOf(p.planes as unknown as Rgb, q.planes as unknown as Rgb, film.width, film.height, exposure)
        : null;
    };
    const groups = [...film.layers.keys()].filter((n) => n.startsWith('half_a.')).map((n) => n.slice(7));
    const mixed = mood && partNoise(film, groups, factorsIn(mood, groups, file.parts).factors, exposure);
    if (mixed && groups.length === 0)
      throw new UsageError(`${path}: holds no halves of light groups (layers half_a.… and half_b.…)`);
    const noise = mixed ? mixed.noise : noiseBetween('half_a', 'half_b');
    if (!noise) throw new UsageError(`${path}: holds no halves (layers half_a and half_b) to measure noise from`);
    const byGroup =
      mixed?.byGroup ?? Object.fromEntries(groups.map((g) => [g, noiseBetween(`half_a.${g}`, `half_b.${g}`)]));
    const squares = groups.reduce((sum, g) => sum + (byGroup[g]?.rms ?? 0) ** 2, 0);
    const shares = Object.fromEntries(groups.map((g) => [g, squares > 0 ? (byGroup[g]?.rms ?? 0) ** 2 / squares : 0]));
    const row = (name: string, n: { rms: number; p95: number; worstCell: number }) =>
      `  ${name.padEnd(20)} ${n.rms.toFixed(3)} %   p95 ${n.p95.toFixed(3)} %   worst cell ${n.worstCell.toFixed(3)} %`;
    const lines = [
      row(mood ? `noise in ${mood.name}` : 'noise', noise),
      ...groups.map((g) => `${row(g, byGroup[g]!)}   ${(shares[g] * 100).toFixed(1)} % of the groups' variance`),
    ];
    print(
      one(args, 'json') === '-',
      { mood: mood?.name ?? null, noise, byGroup, shares, exposure },
      `${lines.join('\n')}\n`,
    );
  });
  return 0;
}
