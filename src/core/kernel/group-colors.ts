import { luminance } from '../image';
import { groupNumber, lightGroups, partOf, type Scene, withOuter } from '../scene';
import { type EnvironmentPicture, madeEnvironment } from '../sky';
import { planLights } from './light-plan';

type Vec = [number, number, number];

/** Mean colours of environments' pictures. */
const known = new WeakMap<EnvironmentPicture, Vec>();

/** Colour of an environment: the mean of its picture over the sphere. */
function environmentColor(scene: Scene): Vec {
  const picture = madeEnvironment(scene)?.picture;
  if (!picture) return [0, 0, 0];
  const color = known.get(picture) ?? meanColor(picture);
  known.set(picture, color);
  return [...color];
}

function meanColor(picture: EnvironmentPicture): Vec {
  const sum: Vec = [0, 0, 0];
  for (let y = 0; y < picture.height; y++) {
    const weight = Math.sin(((y + 0.5) / picture.height) * Math.PI);
    for (let x = 0; x < picture.width; x++)
      for (let c = 0; c < 3; c++) sum[c] += weight * picture.pixels[(y * picture.width + x) * 3 + c];
  }
  return sum;
}

/**
 * Colour that each light group emits, and each that it is in: the mean of its lights' colours by their power, linear Rec.709 of
 * luminance 1; white for a group without light.
 */
export function groupColors(scene: Scene): Record<string, Vec> {
  const { lights, meshes } = planLights(scene, () => 0);
  const groups = lightGroups(scene.document);
  const out = Object.fromEntries(groups.flatMap(withOuter).map((g): [string, Vec] => [g, [0, 0, 0]]));
  const add = (group: string, color: readonly number[], power: number) => {
    const y = luminance(color[0], color[1], color[2]);
    if (y <= 0) return;
    const kept = partOf(groups[groupNumber(groups, group)]).group;
    for (const name of withOuter(kept)) for (let c = 0; c < 3; c++) out[name][c] += (color[c] / y) * power;
  };
  for (const l of lights) {
    if (l.kind === 'environment') {
      const color = environmentColor(scene);
      add(l.group, color, 1);
    } else add(l.group, l.radiance, l.power);
  }
  for (const m of meshes) add(m.group, m.material.emission_color, m.power);
  // Parts of a group's light are told apart by what it meets, not by its colour.
  for (const g of groups) out[g] = out[partOf(g).group];
  for (const [group, color] of Object.entries(out)) {
    const y = luminance(color[0], color[1], color[2]);
    out[group] = y > 0 ? [color[0] / y, color[1] / y, color[2] / y] : [1, 1, 1];
  }
  return out;
}
