'use client';

import { useMemo } from 'react';
import { toast } from 'sonner';
import { eachMix, isNeutral, type Mix, type Moods, whitened, writtenBack } from '@/core/moods';
import { lightGroups, type SceneDocument, sceneChanges } from '@/core/scene';
import { two, words } from '@/core/words';
import { Plain, Tip } from '../../parts/controls';
import { useClient } from '../../state/client';
import { useDesk } from '../../state/desk-store';
import { together } from '../../state/history';
import { type Mixed, type OwnColors, useSceneOf } from '../../state/mixing';
import { useMoods } from '../../state/moods-store';
import { patientNow, useDocument } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { checkPatches } from './written';

const WORDS = 'write the mix to the lights';

/** Whether two scenes have the same lights: what a mix shows over a film of the one, it shows over the other. */
const isAlike = (a: SceneDocument, { lights, environment, materials }: SceneDocument): boolean =>
  sceneChanges(a, { ...a, lights, environment, materials }).length === 0;

/** Why the mix over what A shows cannot be written to the lights of the scene, in words; null where it can. */
export function useOtherLights({ trial }: Mixed): string | null {
  const document = useDocument();
  const scene = useSceneOf(trial);
  const isOther = useMemo(() => scene !== null && !isAlike(scene, document), [scene, document]);
  const isKeyed = useMoods((s) => (s.moods?.now.keys.length ?? 0) > 0);
  if (isKeyed)
    return 'The mix changes over frames, and lights have one strength: without its keys it can be written to them.';
  return trial && isOther
    ? `${two(trial.number)} was rendered with other lights or surfaces than the scene has now: to write a mix to the lights, put the live picture into A.`
    : null;
}

/** Makes the lights of groups white and puts their colours into the mix, in one step; what cannot be is told. */
export function recordWhite(groups: readonly string[], own: OwnColors): void {
  const { document, edit } = useScene.getState();
  const { moods, key } = useMoods.getState();
  if (!document || !moods) return;
  const said = `record ${groups.map(words).join(', ')} white`;
  const made = whitened(document, groups, moods.now.mix, own);
  const inMix = eachMix(moods.now, (m) => whitened(document, groups, m, own).mix);
  if (made.white.length > 0) {
    together(said, () => {
      edit(said, () => made.document);
      key(said, inMix);
    });
    useDesk.getState().set({ a: { kind: 'live' } });
    toast.success(`${made.white.map(words).join(', ')} is recorded white; its colour is in the mix.`);
  }
  for (const { group, why } of made.left) toast.warning(`${words(group)} keeps its colour: ${why}.`);
}

/** Gives the mix to the lights of the scene in one step, which undo takes back; the mix is then neutral. */
export function WriteBack({
  moods,
  own,
  mix,
  disabled,
}: {
  moods: Moods;
  own: OwnColors | null;
  mix: Mix;
  disabled: boolean;
}) {
  const document = useDocument();
  const client = useClient();
  const isNothing = isNeutral(mix, lightGroups(document));
  const write = () => {
    const { document: next, written, left, mix: rest } = writtenBack(document, mix, own!);
    const patient = patientNow();
    if (patient && written.length > 0) void checkPatches(client, patient, next, { mix, rest, own: own! });
    together(WORDS, () => {
      useScene.getState().edit(WORDS, () => next);
      useMoods.getState().replace(WORDS, { ...moods, now: { mix: rest, keys: [], mood: null } });
    });
    useDesk.getState().set({ a: { kind: 'live' }, alone: [] });
    const done = `The lights of ${written.map(words).join(', ')} have the mix now.`;
    if (written.length > 0) toast.success(`${done} Undo gives both back.`);
    for (const { group, why } of left) toast.warning(`${words(group)} stays in the mix: ${why}.`, { duration: 10000 });
  };
  return (
    <Tip text="Gives gains, colours and switches to the lights themselves, surroundings and sun too. The picture stays as it is, the mix becomes neutral, and can be mixed again.">
      <span>
        <Plain disabled={isNothing || disabled || own === null} onClick={write}>
          Write to the lights
        </Plain>
      </span>
    </Tip>
  );
}
