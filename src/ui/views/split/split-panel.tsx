'use client';

import { useMemo } from 'react';
import { finished, type Trial } from '@/contract/trial';
import { layersKept } from '@/core/film';
import { chosenOf, isOfVariant, type NamedBy, possibleLayers, variantOf, withMade } from '@/core/outputs';
import { two } from '@/core/words';
import { Word } from '../../parts/controls';
import { pickedOutput, useOutputs } from '../../state/outputs-store';
import { useRecipe } from '../../state/recipe-store';
import { useCamera, useDocument, useFrame, useSceneGroups } from '../../state/scene-now';
import { useShot } from '../../state/shot-store';
import { useWholeSlot } from '../../state/slots';
import { trialLayers } from '../../state/sources';
import { trialsOf, useTrials } from '../../state/trials-store';
import { LayerList } from './layer-list';
import { OutputFoot } from './output-foot';
import { OutputHead } from './output-head';
import { showOutput } from './shown-picture';
import { TallyHead } from './tally-head';
import { VariantRows } from './variant-rows';

/** What names of files are made of: of the trial in A, or of what is logged next. */
function useNamedBy(trial: Trial | null): NamedBy {
  const shot = useShot((s) => s.name);
  const recipe = useRecipe((s) => s.recipe!.name);
  const camera = useCamera().name;
  const { frames } = useDocument();
  const frame = useFrame();
  const next = useTrials((s) => (trialsOf(s)[0]?.number ?? 0) + 1);
  return useMemo(
    () => ({
      shot,
      recipe: trial?.recipeName ?? recipe,
      camera: trial?.camera ?? camera,
      frames,
      frame: trial ? (trial.frame ?? frames.first) : frame,
      trial: trial?.number ?? next,
      date: trial ? new Date(trial.createdAt) : new Date(),
    }),
    [shot, recipe, camera, frames, frame, trial, next],
  );
}

/** Split: what leaves the shot, chosen before the long render; every layer looked at; parts that add up; files. */
export function SplitPanel() {
  const whole = useWholeSlot('A');
  const shown = whole && finished(whole) ? whole : null;
  const groups = useSceneGroups();
  const film = useRecipe((s) => s.recipe!.film);
  const outputs = useOutputs((s) => s.outputs);
  const output = useOutputs(pickedOutput);
  // The film of another picture has nothing for this output.
  const trial = shown && (!output || isOfVariant(output, variantOf(shown.outputs))) ? shown : null;
  const by = useNamedBy(trial);
  const possible = useMemo(
    () => possibleLayers(film, groups, outputs?.list.flatMap((o) => o.layers) ?? [], outputs?.masks),
    [film, groups, outputs],
  );
  const tallied = useMemo(() => shown && withMade(trialLayers(shown), outputs?.masks ?? []), [shown, outputs]);
  const has = useMemo(() => trial && withMade(trialLayers(trial), outputs?.masks ?? []), [trial, outputs]);
  // A trial may hold what the scene has left behind since.
  const all = useMemo(() => [...possible, ...(has ?? []).filter((n) => !possible.includes(n))], [possible, has]);
  if (!outputs) return null;
  const there = has ?? all;
  const { chosen, absent } = output ? chosenOf(output, there) : { chosen: [], absent: [] };
  return (
    <>
      <TallyHead trial={shown} names={tallied ?? layersKept(film, groups)} />
      <OutputHead outputs={outputs} output={output} trial={shown} />
      {output && <VariantRows output={output} />}
      {output && shown && !trial && (
        <p className="border-b border-line px-3.5 py-1 text-[11.5px]" role="status">
          {two(shown.number)} is another picture.
          <Word className="underline" onClick={() => showOutput(output)}>
            show the one of {output.name}
          </Word>
        </p>
      )}
      {output && (
        <>
          <LayerList output={output} masks={outputs.masks} all={all} groups={groups} trial={trial} has={has} />
          <OutputFoot
            outputs={outputs}
            output={output}
            chosen={chosen}
            absent={absent}
            gone={chosenOf(output, all).absent}
            all={there}
            trial={trial}
            by={by}
          />
        </>
      )}
    </>
  );
}
