import { adviseDenoised, type DenoisedAdvice } from '../advice/denoised';
import { cameraOf, type Patient } from '../advice/patient';
import { liveOf } from '../page/desk';
import type { Question } from './question';

/** The least samples at which the denoised picture is off by no more than a target, in percent of display white. */
export const clean: Question<{ patient: Patient; target: number; threads: number }, DenoisedAdvice> = async (
  desk,
  { patient, target, threads },
  asking,
) => {
  const filter = await WebAssembly.compileStreaming(fetch('/wasm/denoise.wasm'));
  const scene = await desk.sceneOf(patient.document);
  const { recipe, frame } = patient;
  return liveOf(desk).borrow((pool) =>
    adviseDenoised(pool, scene, recipe, cameraOf(patient), {
      ...asking,
      target,
      threads,
      filter,
      spawn: desk.spawn,
      frame,
    }),
  );
};
