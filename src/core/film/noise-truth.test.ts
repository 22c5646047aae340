import { NOISY_SCENES } from '@/render/scenes-testing';
import { renderTest, testRecipe, testScene } from '@/render/testing';
import { displayValue, luminance } from '../image';
import { measureFilm } from '.';

/**
 * The printed noise against the true error on the display: that of the picture against one of many more samples, over four
 * seeds of each scene, with rare and with plain light, with and without outlier limits.
 */
const SIZE = 36;
/** Pixels across of what takes long. */
const SMALLER = 24;
const SLOW = ['a spot on a brass ball', 'a room lit by a small lamp'];
const SAMPLES = 16;
const REFERENCE = 208;
const SEEDS = [1, 2, 3, 4];

async function rendered(name: string, samples: number, seed: number, limits: object) {
  const { film, layers } = await renderTest(
    testScene(NOISY_SCENES[name]),
    testRecipe(SLOW.includes(name) ? SMALLER : SIZE, samples, {
      sampling: { seed, outlierLimit: limits },
      rayDepth: { all: 12 },
    }),
  );
  const [r, g, b] = layers.layers.get('beauty')!.planes;
  const shown = Array.from(r, (_, i) => displayValue(luminance(r[i], g[i], b[i]), 1));
  return { printed: measureFilm(film, 1).noise!.rms, shown };
}

describe.each([
  ['without outlier limits', { first: null, later: null }],
  ['with outlier limits', { first: 4, later: 2 }],
])('%s', (limited, limits) => {
  test.each(Object.keys(NOISY_SCENES))('%s: the printed noise is the true one', async (name) => {
    const truth = await rendered(name, REFERENCE, 99, limits);
    let [printed, real] = [0, 0];
    for (const seed of SEEDS) {
      const made = await rendered(name, SAMPLES, seed, limits);
      printed += made.printed ** 2;
      real += made.shown.reduce((sum, v, i) => sum + (v - truth.shown[i]) ** 2, 0) / made.shown.length;
      // The picture of many samples has some noise of its own.
      real -= (truth.printed / 100) ** 2;
    }
    const ratio = Math.sqrt(printed / real) / 100;
    // Paths so rare that most halves have met none are in no figure made of them.
    const rare = limited.startsWith('without') && name.includes('brass');
    expect(ratio).toBeGreaterThan(rare ? 0.65 : 0.85);
    expect(ratio).toBeLessThan(1.15);
  });
});
