import { useMemo } from 'react';
import { finished, type Trial, type TrialLine } from '@/contract/trial';
import type { NoiseShares, ObjectShare, RayCounts, TimeShares } from '@/core/film';
import type { HotPixels, Noise } from '@/core/stats';
import type { LiveStatus, Slot } from '@/render/page/told';
import { useDesk } from './desk-store';
import { useLive } from './live-store';
import { useRecipe } from './recipe-store';
import { useIsDenoised, useSlotTrial, useWhole } from './slots';

/** Measured figures of whatever a slot shows. */
export interface Figures {
  noise: Noise | null;
  /** What the display hides of it: noise three stops darker, and hot pixels. */
  darker: number | null;
  hot: HotPixels | null;
  /** By the clock. */
  seconds: number | null;
  /** At speed 1, which the budget and efficiency go by; null for the live picture and for trials that were not timed. */
  calibrated: number | null;
  /** The time to compare by: at speed 1, the live picture's by the clock; null where it was not timed. */
  told: number | null;
  rays: RayCounts | null;
  times: TimeShares | null;
  shares: NoiseShares | null;
  /** By object of the first hit. */
  objects: ObjectShare[] | null;
  samples: number | null;
  /** Whether the noise is what denoising left. */
  residual: boolean;
}

/** Figures of a trial; those of its film once it is there whole. */
export function trialFigures(t: TrialLine, whole: Trial | null): Figures {
  return {
    noise: t.noise,
    darker: whole?.figures?.darker ?? null,
    hot: whole?.figures?.hot ?? null,
    seconds: t.seconds?.trace ?? null,
    calibrated: t.seconds?.calibrated ?? null,
    told: t.seconds?.calibrated ?? null,
    rays: whole?.figures?.rays ?? null,
    times: whole?.figures?.times ?? null,
    shares: whole?.figures?.shares ?? null,
    objects: whole?.figures?.objects ?? null,
    samples: whole?.figures?.samples ?? null,
    residual: false,
  };
}

function liveFigures(s: LiveStatus | null): Figures {
  return {
    noise: s?.noise ?? null,
    darker: s?.darker ?? null,
    hot: s?.hot ?? null,
    seconds: s ? s.elapsedMs / 1000 : null,
    calibrated: null,
    told: s ? s.elapsedMs / 1000 : null,
    rays: s?.rays ?? null,
    times: s?.times ?? null,
    shares: s?.shares ?? null,
    objects: s?.objects ?? null,
    samples: null,
    residual: false,
  };
}

/**
 * Figures of what a slot shows; `plain`: as it was rendered, where it is shown denoised. A component that asks for those of the live picture renders as
 * it lives.
 */
export function useFigures(slot: Slot, plain = false): Figures {
  const isTrial = useDesk((s) => (slot === 'A' ? s.a : s.b)?.kind === 'trial');
  const trial = useSlotTrial(slot);
  const whole = useWhole(trial && finished(trial) ? trial : null);
  const status = useLive((s) => (isTrial && trial ? null : s.status));
  const denoised = useIsDenoised(slot) && !plain;
  return useMemo(() => {
    if (!isTrial || !trial) return liveFigures(status);
    const figures = trialFigures(trial, whole);
    const residual = denoised ? trial.denoised?.residual : null;
    // What the display hides was told of the film as it was rendered.
    return residual ? { ...figures, noise: residual, darker: null, hot: null, residual: true } : figures;
  }, [isTrial, trial, whole, status, denoised]);
}

/**
 * The figures that rows, sources and cures go by: A's, or those of the region where one is drawn that A does not show alone,
 * which the live picture measures.
 */
export function useGoverning(): { figures: Figures; of: 'A' | 'region' } {
  const trial = useSlotTrial('A');
  const whole = useWhole(trial);
  const region = useRecipe((s) => s.recipe?.region ?? null);
  const own = trial ? (whole?.recipe.region ?? null) : region;
  const ofA = region === null || JSON.stringify(own) === JSON.stringify(region);
  const a = useFigures('A', true);
  const status = useLive((s) => (ofA ? null : s.status));
  return useMemo(
    () => (ofA ? { figures: a, of: region ? 'region' : 'A' } : { figures: liveFigures(status), of: 'region' }),
    [ofA, a, region, status],
  );
}
