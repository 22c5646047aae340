// Poorer techniques beside our own, for measuring what ours gain; renders never ask for them.
import { P_STUDY, SCRATCH_PARAMS, STUDY_DISTANCE_FOG, STUDY_LIGHTS_ALONE, STUDY_LOBES_ALONE, STUDY_PLAIN_RANDOM, STUDY_UNIFORM_CHOICE } from './layout';

export let plainRandom: bool = false;
export let lightsAlone: bool = false;
export let lobesAlone: bool = false;
export let uniformChoice: bool = false;
export let distanceFog: bool = false;

export function bindStudy(base: usize): void {
  const flags = load<i32>(base + SCRATCH_PARAMS, P_STUDY);
  plainRandom = (flags & STUDY_PLAIN_RANDOM) != 0;
  lightsAlone = (flags & STUDY_LIGHTS_ALONE) != 0;
  lobesAlone = (flags & STUDY_LOBES_ALONE) != 0;
  uniformChoice = (flags & STUDY_UNIFORM_CHOICE) != 0;
  distanceFog = (flags & STUDY_DISTANCE_FOG) != 0;
}
