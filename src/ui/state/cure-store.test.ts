import { parseRecipe, withSetting } from '@/core/recipe';
import { emptyShot } from '@/core/scene';
import type { Patient } from '@/render/diagnosis/diagnose';
import type { Answer } from '@/render/tuning';
import { answerFor, predictionFor, useCure } from './cure-store';

const set = (path: string, value: unknown) => parseRecipe(withSetting(parseRecipe({}), path, value));
const interval = { value: 2, low: 1, high: 3 };
const predicted = { noise: interval, seconds: interval };
const of: Patient = { document: emptyShot('quay'), recipe: parseRecipe({}), camera: 'camera', frame: 1 };
const proposed = set('sampling.lightSamples', 4);
const answer = { proposal: { recipe: proposed, predicted } } as unknown as Answer;

describe('what pilots told', () => {
  test('holds while only counts and samples change', () => {
    expect(answerFor({ answer, of }, of)).toBe(answer);
    for (const recipe of [proposed, set('sampling.cameraMax', 512), set('sampling.stopNoise', 2), set('name', 'mine')])
      expect(answerFor({ answer, of }, { ...of, recipe })).toBe(answer);
  });

  test('is let go for another scene, camera, frame, depth, size or seed', () => {
    const others: Partial<Patient>[] = [
      { document: emptyShot('quay') },
      { camera: 'boat' },
      { frame: 2 },
      { recipe: set('rayDepth.diffuse', 1) },
      { recipe: set('size.scale', 25) },
      { recipe: set('sampling.seed', 9) },
    ];
    for (const other of others) expect(answerFor({ answer, of }, { ...of, ...other })).toBeNull();
  });

  test('a trial gets the prediction of the proposal alone', () => {
    useCure.setState({ answer, of });
    expect(predictionFor({ ...of, recipe: proposed })).toEqual(predicted);
    expect(predictionFor(of)).toBeNull();
    expect(predictionFor({ ...of, recipe: proposed, document: emptyShot('quay') })).toBeNull();
  });
});
