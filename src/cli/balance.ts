import { extname } from 'node:path';
import { type Attribute, layersOf, withLayers, writeExr } from '@/core/exr';
import { balancedFilm, groupsHeld } from '@/core/film';
import { luminance } from '@/core/image';
import { type Mix, mixingOf } from '@/core/moods';
import { canonicalJson } from '@/core/recipe';
import { nodeDeflate } from '@/node/zlib';
import { one, parseArguments, print, UsageError } from './args';
import { readParts, withExr, writeWhole } from './exr-files';
import { EMITS, factorsIn, moodOf } from './moods';

/** What a balanced file says: the mood, and what each group emits now. */
function attributesOf(name: string, mix: Mix, groups: readonly string[], own: Record<string, number[]>) {
  const said = (value: string): Attribute => ({ type: 'string', value });
  const emits = groups.flatMap((g): [string, Attribute][] => {
    const factor = mixingOf(mix, g, own[g]).color;
    const color = own[g]?.map((c, k) => c * factor[k]) as [number, number, number] | undefined;
    const y = color ? luminance(...color) : 0;
    return color && y > 0 ? [[EMITS + g, said(color.map((c) => (c / y).toFixed(5)).join(' '))]] : [];
  });
  return {
    'lantern:mood': said(name),
    'lantern:mix': said(canonicalJson(mix)),
    ...Object.fromEntries(emits),
  };
}

/** Layers in few words: a family with how many of it there are. */
function inFamilies(names: readonly string[]): string {
  const counts = new Map<string, number>();
  for (const name of names) {
    const family = name.includes('.') ? `${name.slice(0, name.indexOf('.'))}.*` : name;
    counts.set(family, (counts.get(family) ?? 0) + 1);
  }
  return [...counts].map(([family, n]) => (n > 1 ? `${family} (${n})` : family)).join(', ');
}

/** `lantern balance`: a film in a mood, its beauty and its parts, which still add up. Returns the exit code. */
export async function balance(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { mood: 'value', out: 'value', json: 'value' });
  if (args.positional.length !== 1) throw new UsageError('balance needs one .exr file');
  const [path] = args.positional;
  const [moodPath, out] = [one(args, 'mood'), one(args, 'out')];
  if (moodPath === undefined) throw new UsageError('balance needs --mood file.json');
  if (out === undefined) throw new UsageError('balance needs --out file.exr');
  if (extname(out) !== '.exr') throw new UsageError(`--out ${out}: must end in .exr`);
  const mood = await moodOf(moodPath);
  const parts = await withExr(path, readParts);
  const film = layersOf(parts);
  const groups = groupsHeld(film);
  const { own, mix, factors } = factorsIn(mood, groups, parts);
  const made = balancedFilm(film, groups, factors);
  if (!made) throw new UsageError(`${path}: it holds no light groups (layers group.…)`);
  const attributes = attributesOf(mood.name, mix, groups, own);
  const kept = withLayers(parts, made.film, made.leftOut).map((part) => ({
    ...part,
    attributes: { ...part.attributes, ...attributes },
  }));
  const { bytes } = await writeExr(kept, nodeDeflate);
  await writeWhole(out, bytes);
  const left = made.leftOut.length > 0 ? `; left out, since it is not told by group: ${inFamilies(made.leftOut)}` : '';
  print(
    one(args, 'json') === '-',
    { film: out, mood: mood.name, groups, factors, leftOut: made.leftOut },
    `${out}: ${mood.name} over ${groups.length} light groups${left}\n`,
  );
  return 0;
}
