import type { Trial, TrialLine } from '@/contract/trial';
import { frameOf, parseRecipe, type Recipe } from '@/core/recipe';

const id = (n: number) => `01930000-0000-7000-8000-${String(n).padStart(12, '0')}`;
export const SHOT = id(0);

/** A finished trial as the logbook lists it, of a recipe and otherwise as given. */
export function trialLine(
  number: number,
  change: Partial<TrialLine> = {},
  recipe: Recipe = parseRecipe({}),
): TrialLine {
  return {
    id: id(number),
    shot: SHOT,
    number,
    run: null,
    revision: id(900),
    camera: 'cam',
    frame: null,
    parent: null,
    title: `trial ${number}`,
    note: '',
    starred: false,
    state: 'done',
    fraction: 1,
    leftMs: null,
    untimed: false,
    sample: false,
    fault: null,
    seconds: { load: 1, trace: 12, calibrated: 10, write: 1 },
    noise: { rms: 2, p95: 3, worstCell: 4 } as TrialLine['noise'],
    predicted: null,
    ladder: null,
    variantFor: null,
    film: null,
    denoised: null,
    createdAt: '2031-01-01T00:00:00Z',
    recipeName: recipe.name,
    pixels: frameOf(recipe),
    ...change,
  };
}

/** The same whole, with what its film holds. */
export const wholeTrial = (line: TrialLine, recipe: Recipe = parseRecipe({}), groups: string[] = []): Trial => ({
  ...line,
  recipe,
  outputs: null,
  delivered: null,
  figures: null,
  spec: { groups } as unknown as Trial['spec'],
});
