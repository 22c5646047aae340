import { cameraAxes } from '@/core/kernel';
import { type Camera, cameraAt, type Scene } from '@/core/scene';
import { brightestDirection, environmentPicture } from '@/core/sky';
import { cameraOf, type Patient } from '../advice/patient';
import type { Question } from './question';

/** Where the environment is brightest, and where in the picture that lies. */
export interface Brightest {
  heightDegrees: number;
  /** Clockwise from −z seen from above. */
  bearingDegrees: number;
  /** Mean luminance within 3°, and its share of all the light that comes from the environment. */
  nits: number;
  share: number;
  /** Fractions of the frame; beyond 0..1 outside of it. Null behind the camera. */
  at: { x: number; y: number } | null;
}

type Found = ReturnType<typeof brightestDirection>;
let last: { key: string; found: Found } | null = null;

/** Where a direction lies in the picture, as fractions of the frame; null behind the camera. */
export function pictureOf(
  camera: Camera,
  frame: number,
  aspect: number,
  direction: readonly number[],
): { x: number; y: number } | null {
  const { right, up, back } = cameraAxes(cameraAt(camera, frame));
  const dot = (a: readonly number[]) => a.reduce((s, v, k) => s + v * direction[k], 0);
  const ahead = -dot(back);
  if (ahead <= 1e-6) return null;
  const tanX = camera.sensorWidthMm / (2 * camera.focalLengthMm);
  const tanY = tanX / aspect;
  return {
    x: (dot(right) / ahead / tanX - 2 * camera.shift[0] + 1) / 2,
    y: (1 - dot(up) / ahead / tanY + 2 * camera.shift[1]) / 2,
  };
}

/** Where a scene's environment is brightest; null when there is none or it is black. */
export function brightestOf(scene: Scene, camera: Camera, patient: Patient): Brightest | null {
  const key = JSON.stringify(scene.document.environment);
  if (last?.key !== key) {
    const picture = environmentPicture(scene);
    last = { key, found: picture && brightestDirection(picture) };
  }
  const { found } = last;
  if (!found) return null;
  const [x, y, z] = found.direction;
  const { width, height } = patient.recipe.size;
  return {
    heightDegrees: (Math.asin(y) * 180) / Math.PI,
    bearingDegrees: ((Math.atan2(x, -z) * 180) / Math.PI + 360) % 360,
    nits: found.nits,
    share: found.share,
    at: pictureOf(camera, patient.frame, width / height, found.direction),
  };
}

/** Where the surroundings are brightest, and where in the picture that lies. */
export const brightest: Question<{ patient: Patient }, Brightest | null> = async (desk, { patient }) =>
  brightestOf(await desk.sceneOf(patient.document), cameraOf(patient), patient);
