import { readFile } from 'node:fs/promises';
import type { Attribute, PartHeader } from '@/core/exr';
import { type MoodFile, MoodsError, missingGroups, mixAt, mixFactors, parseMoodFile } from '@/core/moods';
import { UsageError } from './args';

/** What stands before the names of light groups in attributes that tell what they emitted. */
export const EMITS = 'lantern:emits.';

/** The colour that each light group emitted, as a file of ours says; white where it says nothing of one. */
function ownColors(attributes: Record<string, Attribute>): Record<string, number[]> {
  return Object.fromEntries(
    Object.entries(attributes).flatMap(([name, a]) => {
      if (!name.startsWith(EMITS) || a.type !== 'string') return [];
      const color = a.value.split(' ').map(Number);
      return color.length === 3 && color.every((c) => Number.isFinite(c)) ? [[name.slice(EMITS.length), color]] : [];
    }),
  );
}

/** A mood of a JSON file. Faults are usage errors that name it. */
export async function moodOf(path: string): Promise<MoodFile> {
  const text = await readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
    throw new UsageError(`${path}: ${error.code === 'ENOENT' ? 'no such file' : error.message}`);
  });
  try {
    return parseMoodFile(JSON.parse(text));
  } catch (error) {
    throw new UsageError(`${path}: ${error instanceof MoodsError ? error.message : 'it is no JSON'}`);
  }
}

/** The frame that a film's file says it is of; 1 where it says nothing. */
function frameOf(attributes: Record<string, Attribute>): number {
  const own = attributes['lantern:frame'];
  return own?.type === 'double' ? own.value : 1;
}

/**
 * What a mood is at the frame of a film, and what it does to its light groups by what the file says that they emitted; tells on the error stream
 * what it has no group for.
 */
export function factorsIn(mood: MoodFile, groups: readonly string[], parts: readonly Pick<PartHeader, 'attributes'>[]) {
  const own = ownColors(parts[0].attributes);
  const mix = mixAt(mood, frameOf(parts[0].attributes), own);
  const missing = missingGroups(mix, groups);
  if (missing.length > 0)
    process.stderr.write(`${mood.name}: left alone: ${missing.join(', ')}, which the film does not keep apart\n`);
  return { own, mix, factors: mixFactors(groups, mix, own) };
}
