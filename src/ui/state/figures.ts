import type { NoiseShares, ObjectShare, RayCounts, TimeShares } from '@/core/film';
import { frameOf, type Recipe } from '@/core/recipe';
import { efficiency, type Noise } from '@/core/stats';
import type { LiveStatus, Slot } from '@/render/film-protocol';
import { useDesk } from './desk-store';
import type { Session } from './session';
import type { Trial } from './types';

/** Measured figures of whatever a slot shows. */
export interface Figures {
  noise: Noise | null;
  /** By the clock. */
  seconds: number | null;
  /** At speed 1, which the budget and efficiency go by; null for the live picture. */
  calibrated: number | null;
  rays: RayCounts | null;
  times: TimeShares | null;
  shares: NoiseShares | null;
  /** By object of the first hit; null where the logbook's list leaves them out. */
  objects: ObjectShare[] | null;
  samples: number | null;
}

export function trialFigures(t: Trial): Figures {
  return {
    noise: t.noise,
    seconds: t.seconds?.trace ?? null,
    calibrated: t.seconds?.calibrated ?? null,
    rays: t.figures?.rays ?? null,
    times: t.figures?.times ?? null,
    shares: t.figures?.shares ?? null,
    objects: t.figures?.objects ?? null,
    samples: t.figures?.samples ?? null,
  };
}

export function figuresOf(session: Session, slot: Slot): Figures {
  const desk = useDesk.getState();
  const pick = slot === 'A' ? desk.a : desk.b;
  const trial = slot === 'A' ? session.trialA : session.trialB;
  if (pick?.kind === 'trial' && trial) return trialFigures(trial);
  return liveFigures(session.status);
}

function liveFigures(s: LiveStatus | null): Figures {
  return {
    noise: s?.noise ?? null,
    seconds: s ? s.elapsedMs / 1000 : null,
    calibrated: null,
    rays: s?.rays ?? null,
    times: s?.times ?? null,
    shares: s?.shares ?? null,
    objects: s?.objects ?? null,
    samples: null,
  };
}

/**
 * The figures that rows, sources and cures go by: A's, or those of the region where one is drawn that A does not show alone,
 * which the live picture measures.
 */
export function figuresFor(session: Session, recipe: Recipe): { figures: Figures; of: 'A' | 'region' } {
  const { trialA, status } = session;
  const own = trialA ? trialA.recipe.region : recipe.region;
  if (recipe.region === null || JSON.stringify(own) === JSON.stringify(recipe.region))
    return { figures: figuresOf(session, 'A'), of: recipe.region ? 'region' : 'A' };
  return { figures: liveFigures(status), of: 'region' };
}

/** Whether two trials render the same pixels of the same scene: otherwise neither noise nor time of one says anything of the other. */
export function comparable(a: Trial, b: Trial): boolean {
  const of = ({ revision, camera, frame, recipe }: Trial) => JSON.stringify([revision, camera, frame, frameOf(recipe)]);
  return of(a) === of(b);
}

/** Efficiency of a trial as a multiple of the baseline's. Null where either lacks a measurement, or where they do not compare. */
export function relativeEfficiency(t: Trial | null, baseline: Trial | null): number | null {
  if (!t?.noise || !t.seconds || !baseline?.noise || !baseline.seconds || !comparable(t, baseline)) return null;
  const base = efficiency(baseline.noise.rms, baseline.seconds.calibrated);
  return base > 0 ? efficiency(t.noise.rms, t.seconds.calibrated) / base : null;
}
