import { parseRecipe, withSetting } from '@/core/recipe';
import { emptyShot } from '@/core/scene';
import type { Cures, TriedCure } from '@/render/advice/cures/try-cures';
import type { Patient } from '@/render/advice/patient';
import type { SequenceFrame } from '@/render/advice/sequence';
import type { Answer } from '@/render/advice/tuning';
import { answerFor, curesFor, makeCure, predictionFor, sequenceFor, useCure } from './cure-store';
import { undo } from './history';
import { useRecipe } from './recipe-store';
import { useScene } from './scene-store';

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
    // What a mood comes to is not what a trial of the picture will measure.
    useCure.setState({ answer: { ...answer, forMoods: true } });
    expect(predictionFor({ ...of, recipe: proposed })).toBeNull();
  });
});

describe('cures that were tried', () => {
  const cures = { tried: [] } as unknown as Cures;
  test('hold for just what they were tried on, a region included', () => {
    const known = { cures, curesOf: of };
    expect(curesFor(known, { ...of, recipe: parseRecipe({}) })).toBe(cures);
    const others: Partial<Patient>[] = [
      { document: emptyShot('quay') },
      { frame: 2 },
      { recipe: proposed },
      { recipe: set('region', { x: 0, y: 0, w: 0.5, h: 0.5 }) },
    ];
    for (const other of others) expect(curesFor(known, { ...of, ...other })).toBeNull();
    expect(curesFor({ cures: null, curesOf: of }, of)).toBeNull();
  });

  test('measured frames hold at every frame that is looked at', () => {
    const sequence = [{ frame: 1 }] as SequenceFrame[];
    expect(sequenceFor({ sequence, sequenceOf: of }, { ...of, frame: 30 })).toBe(sequence);
    expect(sequenceFor({ sequence, sequenceOf: of }, { ...of, recipe: proposed })).toBeNull();
  });

  test('one of the scene is a single step of undo, one of the recipe leaves the scene alone', () => {
    const before = emptyShot('quay');
    const after = { ...emptyShot('quay'), name: 'quay, cured' };
    useScene.getState().load(before);
    useRecipe.getState().load(parseRecipe({}), 1);
    makeCure({ words: 'the lamp shines through', document: after, recipe: parseRecipe({}) } as unknown as TriedCure);
    expect(useScene.getState().document).toBe(after);
    undo();
    expect(useScene.getState().document).toBe(before);
    makeCure({ words: 'light samples 1 → 4', document: null, recipe: proposed } as unknown as TriedCure);
    expect(useScene.getState().document).toBe(before);
    expect(useRecipe.getState().recipe!.sampling.lightSamples).toBe(4);
  });

  test('one that was tried on a film that keeps more leaves the draft’s film as it is', () => {
    useRecipe.getState().load(parseRecipe({}), 1);
    const { film } = useRecipe.getState().recipe!;
    const recipe = { ...proposed, film: { ...film, lostLight: true } };
    makeCure({ words: 'light samples 1 → 4', document: null, recipe } as unknown as TriedCure);
    expect(useRecipe.getState().recipe!.film).toEqual(film);
  });
});
