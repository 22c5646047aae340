import { useQueries } from '@tanstack/react-query';
import { useMemo } from 'react';
import { finished } from '@/contract/trial';
import { OF_TRIAL, OF_VARIANT } from '@/core/comp';
import type { Output } from '@/core/outputs';
import { outputAt } from '@/core/stacks';
import type { FilmOf } from '@/render/views/film-of';
import { useOutputs } from './outputs-store';
import { wholeTrial } from './slots';
import { trialLayers } from './sources';
import { useStack } from './stack-store';
import { type ListedTrial, useTrials } from './trials-store';
import { isOfPicture } from './variants';

/** The frame and the camera of what A shows. */
export interface View {
  frame: number | null;
  camera: string;
}

type Trials = { byId: ReadonlyMap<string, ListedTrial>; order: readonly string[] };
const NO_TRIALS: Trials['byId'] = new Map();
const NO_ORDER: readonly string[] = [];
const NO_OUTPUTS: readonly Output[] = [];
const NO_FILMS = {};

/** The trial whose film a stack takes, by where the stack says that it is: of a variant the newest finished one of what A shows. */
function trialAt(
  where: string,
  { byId, order }: Trials,
  list: readonly Output[],
  of: View | null,
): ListedTrial | undefined {
  if (where.startsWith(OF_TRIAL)) return byId.get(where.slice(OF_TRIAL.length));
  const output = outputAt(where, list);
  if (!output) return undefined;
  const id = order.find((id) => {
    const t = byId.get(id);
    return t && finished(t) && isOfPicture(t, output) && t.frame === of?.frame && t.camera === of.camera;
  });
  return id === undefined ? undefined : byId.get(id);
}

/** Films of finished trials that the shot's stack takes, by where it says that they are, with the layers that they keep once these are known. */
export function useStackFilms(of: View | null): ReadonlyMap<string, { of: FilmOf; kept?: readonly string[] }> {
  const films = useStack((s) => (s.stack?.films ?? NO_FILMS) as Record<string, string>);
  const wheres = useMemo(
    () => [...new Set(Object.values(films))].filter((w) => w.startsWith(OF_TRIAL) || w.startsWith(OF_VARIANT)),
    [films],
  );
  const isAsked = wheres.length > 0;
  const byId = useTrials((s) => (isAsked ? s.byId : NO_TRIALS));
  const order = useTrials((s) => (isAsked ? s.order : NO_ORDER));
  const list = useOutputs((s) => s.outputs?.list ?? NO_OUTPUTS);
  const found = wheres.flatMap((where) => {
    const trial = trialAt(where, { byId, order }, list, of);
    return trial && finished(trial) ? [{ where, trial }] : [];
  });
  const known = useQueries({ queries: found.map(({ trial }) => wholeTrial(trial)) });
  const key = JSON.stringify(found.map(({ where, trial: { id, film } }, i) => [where, id, film, known[i].isSuccess]));
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key tells all that the films are made of
  return useMemo(
    () =>
      new Map(
        found.map(({ where, trial: { id, film } }, i) => {
          const whole = known[i].data?.trial;
          return [where, { of: { id, film, denoised: null }, ...(whole ? { kept: trialLayers(whole) } : {}) }];
        }),
      ),
    [key],
  );
}
