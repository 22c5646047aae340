import { boxHeight, boxWidth, type ExrFile } from '@/core/exr';
import { LAYER, type Parting, TALLY_LIMITS, tally } from '@/core/film';
import { noiseOf, type Rgb } from '@/core/stats';
import { one, parseArguments, print, UsageError } from './args';
import { readLayers, withExr } from './exr-files';

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

/** What is wrong with parts that do not add up, as far as they tell. */
function whyNot(missing: number, absent: readonly string[]): string {
  const share = `${Math.abs(missing * 100).toFixed(2)} % of the light`;
  if (absent.length > 0)
    return `  left out: light ${absent.length === 1 ? 'group' : 'groups'} ${absent.join(', ')}; ${share} is in no part\n`;
  if (Math.abs(missing) > 1e-3)
    return `  ${share} is ${missing > 0 ? 'in no part' : 'in the parts and not in the beauty'}\n`;
  return '';
}

/** `lantern tally`: whether parts sum to the beauty; exit 1 when they do not. */
export async function tallyVerb(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { parts: 'value', json: 'value' });
  const parting = one(args, 'parts') ?? 'group';
  if (parting !== 'group' && parting !== 'class' && parting !== 'bounce')
    throw new UsageError(`--parts ${parting}: must be group, class or bounce`);
  const path = onePath('tally', args.positional);
  return withExr(path, async (source, file) => {
    const result = tally(await readLayers(source, file), parting as Parting);
    if (!result) throw new UsageError(`${path}: holds no beauty or no ${parting} parts`);
    const colour = file.parts
      .flatMap((p) => p.channels)
      .filter((c) => c.name === 'R' || c.name.startsWith(`${parting}.`));
    const storage = colour.some((c) => c.type === 'half') ? 'half' : 'float';
    const limit = TALLY_LIMITS[storage];
    const ok = result.maxError <= limit;
    const { map: _, ...figures } = result;
    const absent = ok || parting !== 'group' ? [] : absentGroups(file, result.parts);
    print(
      one(args, 'json') === '-',
      { ...figures, storage, limit, addsUp: ok, absent },
      `${result.parts.length} parts by ${parting}, stored as ${storage}: max ${result.maxError.toExponential(2)}, RMS ${result.rmsError.toExponential(2)} (${result.decibels.toFixed(1)} dB); ${ok ? 'adds up' : 'does not add up'} (limit ${limit.toExponential(0)})\n${ok ? '' : whyNot(result.missing, absent)}`,
    );
    return ok ? 0 : 1;
  });
}

/** `lantern measure`: noise of a film from its halves, at the exposure it was rendered for. */
export async function measure(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { json: 'value' });
  const path = onePath('measure', args.positional);
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
    const noise = noiseBetween('half_a', 'half_b');
    if (!noise) throw new UsageError(`${path}: holds no halves (layers half_a and half_b) to measure noise from`);
    const groups = [...film.layers.keys()].filter((n) => n.startsWith('half_a.')).map((n) => n.slice(7));
    const byGroup = Object.fromEntries(groups.map((g) => [g, noiseBetween(`half_a.${g}`, `half_b.${g}`)]));
    const squares = groups.reduce((sum, g) => sum + (byGroup[g]?.rms ?? 0) ** 2, 0);
    const shares = Object.fromEntries(groups.map((g) => [g, squares > 0 ? (byGroup[g]?.rms ?? 0) ** 2 / squares : 0]));
    const row = (name: string, n: { rms: number; p95: number; worstCell: number }) =>
      `  ${name.padEnd(20)} ${n.rms.toFixed(3)} %   p95 ${n.p95.toFixed(3)} %   worst cell ${n.worstCell.toFixed(3)} %`;
    const lines = [
      row('noise', noise),
      ...groups.map((g) => `${row(g, byGroup[g]!)}   ${(shares[g] * 100).toFixed(1)} % of the groups' variance`),
    ];
    print(one(args, 'json') === '-', { noise, byGroup, shares, exposure }, `${lines.join('\n')}\n`);
  });
  return 0;
}
