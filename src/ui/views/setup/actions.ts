import { toast } from 'sonner';
import { aimedAt, copied, type ItemRef, mirrored, moved, placementOf, type SceneDocument, without } from '@/core/scene';
import { useAim } from '../../state/aim-store';
import { useScene } from '../../state/scene-store';

const said = (items: readonly ItemRef[]) => (items.length === 1 ? items[0].name : `${items.length} items`);

export function removeChosen(): void {
  const { chosen, edit, choose } = useScene.getState();
  if (chosen.length === 0) return;
  const fault = edit(`remove ${said(chosen)}`, (d) => without(d, chosen));
  if (fault) toast.error(fault);
  else {
    choose([]);
    toast(`${said(chosen)} removed. Ctrl Z brings it back.`);
  }
}

/** Copies what is chosen and chooses the copies. */
export function copyChosen(
  linked: boolean,
  then: (d: SceneDocument, made: ItemRef[]) => SceneDocument = (d) => d,
): void {
  const { chosen, edit, choose } = useScene.getState();
  if (chosen.length === 0) return;
  let made: ItemRef[] = [];
  const fault = edit(`copy ${said(chosen)}`, (d) => {
    const result = copied(d, chosen, linked);
    made = result.made;
    return then(result.document, made);
  });
  if (fault) toast.error(fault);
  else choose(made);
}

export function mirrorChosen(axis: 0 | 1 | 2): void {
  copyChosen(true, (d, made) => mirrored(d, made, axis));
}

/** Turns what is chosen to face where the next click falls. */
export function aimChosen(): void {
  useAim.getState().begin({
    by: 'aim',
    words: 'Click what it is to face',
    take: (seen) => {
      if (!Number.isFinite(seen.metres)) {
        toast.error('There is nothing there.');
        return true;
      }
      const { chosen, edit } = useScene.getState();
      const fault = edit(`aim ${said(chosen)}`, (d) => aimedAt(d, chosen, seen.position));
      if (fault) toast.error(fault);
      return false;
    },
  });
}

/** Puts what is chosen onto the surface where the next click falls: lights facing along its normal, a hand away. */
export function snapChosen(): void {
  useAim.getState().begin({
    by: 'snap',
    words: 'Click the surface to put it on',
    take: (seen) => {
      if (!seen.object) {
        toast.error('There is no surface there.');
        return true;
      }
      const { chosen, edit } = useScene.getState();
      const fault = edit(`snap ${said(chosen)}`, (d) =>
        chosen.reduce((doc, item) => snapped(doc, item, seen.position, seen.normal), d),
      );
      if (fault) toast.error(fault);
      return false;
    },
  });
}

const HAND_METRES = 0.02;

function snapped(d: SceneDocument, item: ItemRef, at: readonly number[], normal: readonly number[]): SceneDocument {
  const from =
    item.kind === 'object'
      ? placementOf(d.objects.find((o) => o.name === item.name)?.transform).position
      : item.kind === 'light'
        ? placeOf(d.lights.find((l) => l.name === item.name))
        : item.kind === 'camera'
          ? d.cameras.find((c) => c.name === item.name)?.position
          : undefined;
  if (!from) return d;
  const away = item.kind === 'object' ? restHeight(d, item.name) : HAND_METRES;
  const out = moved(
    d,
    [item],
    from.map((c, k) => at[k] + normal[k] * away - c),
  );
  if (item.kind !== 'light') return out;
  return {
    ...out,
    lights: out.lights.map((l) =>
      l.name === item.name && 'facing' in l ? { ...l, facing: [normal[0], normal[1], normal[2]] } : l,
    ),
  };
}

const placeOf = (light: SceneDocument['lights'][number] | undefined) =>
  light && 'position' in light ? light.position : undefined;

/** How far a form's origin stands above what it rests on; other objects stand at their origin. */
function restHeight(d: SceneDocument, name: string): number {
  const object = d.objects.find((o) => o.name === name)!;
  const form = d.forms.find((f) => f.name === object.mesh);
  const { scale } = placementOf(object.transform);
  if (!form || form.kind === 'plane' || form.kind === 'backdrop') return 0;
  return (form.kind === 'ball' ? form.radius : form.height / 2) * Math.abs(scale[1]);
}
