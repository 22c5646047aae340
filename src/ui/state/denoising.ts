import { isFiltered, isUnderWay } from '@/contract/denoised';
import { finished } from '@/contract/trial';
import type { Strengths } from '@/core/denoise';
import { api } from './api';
import { useDesk } from './desk-store';
import { useRecipe } from './recipe-store';
import { tell } from './tell';
import { type ListedTrial, strengthsUnderWay, useTrials } from './trials-store';
import { useViewport } from './viewport-store';

/** Pixels of a film about the wipe line's middle that are denoised first, where the whole picture is in sight. */
const ABOUT_WIPE = 96;
/** What of the window is beside the picture. */
const [PANEL, BARS] = [400, 76];

/** The part of a film that is looked at now, in its pixels: what is in sight, or where A and B part. */
export function partInSight({ pixels: { width, height, region } }: Pick<ListedTrial, 'pixels'>) {
  const { zoom, pan, parting } = useViewport.getState();
  const size = useRecipe.getState().recipe?.size ?? { width, height };
  const { drawerHeight } = useDesk.getState();
  const [w, h] =
    zoom === null
      ? [ABOUT_WIPE / width, ABOUT_WIPE / height]
      : [
          (window.innerWidth - PANEL) / (zoom * size.width),
          (window.innerHeight - BARS - drawerHeight) / (zoom * size.height),
        ];
  const x = zoom === null ? parting.x : 0.5 - pan.x / (size.width * zoom);
  const y = zoom === null ? parting.y : 0.5 - pan.y / (size.height * zoom);
  const span = (middle: number, share: number, all: number, from: number, length: number) => {
    const first = Math.max(0, Math.min(length - 1, Math.floor((middle - share / 2) * all) - from));
    const last = Math.max(first + 1, Math.min(length, Math.ceil((middle + share / 2) * all) - from));
    return [first, last - first];
  };
  const [left, across] = span(x, w, width, region.x, region.width);
  const [top, down] = span(y, h, height, region.y, region.height);
  return { x: left, y: top, width: across, height: down };
}

/** Has a trial's film denoised, unless it is done or under way. */
export async function denoise(trial: ListedTrial): Promise<void> {
  if (isUnderWay(trial.denoised) || (isFiltered(trial.denoised) && trial.denoised?.state !== 'stopped')) return;
  try {
    await api.denoise(trial.id, { first: partInSight(trial) });
  } catch (error) {
    tell(error);
  }
}

/**
 * Shows A denoised, and as it was rendered in B where nothing else is; or A as it was rendered again. The first time it is
 * filtered, what is in sight before the rest.
 */
export function toggleDenoised(): void {
  const { a, b, set } = useDesk.getState();
  const trial = a.kind === 'trial' ? useTrials.getState().byId.get(a.id) : undefined;
  if (a.kind !== 'trial' || !trial || !finished(trial)) {
    tell(new Error('Put a finished trial into A to denoise it: log one with T, or click one in the logbook.'));
    return;
  }
  if (a.denoised) {
    set({ a: { kind: 'trial', id: a.id } });
    return;
  }
  set({ a: { kind: 'trial', id: a.id, denoised: true }, b: b ?? { kind: 'trial', id: a.id } });
  void denoise(trial);
}

const SEND_AFTER_MS = 250;
/** What is still to be sent, by trial. */
const unsent = new Map<string, { strengths: Strengths; timer: ReturnType<typeof setTimeout> }>();

/** Takes other strengths: at once on the page, a moment later on the server, which measures what noise is left. */
export function takeStrengths(trial: string, strengths: Strengths): void {
  useTrials.getState().denoising(trial, { strengths });
  strengthsUnderWay.add(trial);
  clearTimeout(unsent.get(trial)?.timer);
  const timer = setTimeout(() => void send(trial, strengths), SEND_AFTER_MS);
  unsent.set(trial, { strengths, timer });
}

async function send(trial: string, strengths: Strengths): Promise<void> {
  const last = () => unsent.get(trial)?.strengths === strengths;
  try {
    const { residual } = await api.setStrengths(trial, strengths);
    if (last()) useTrials.getState().denoising(trial, { residual });
  } catch (error) {
    tell(error);
  } finally {
    if (last()) {
      unsent.delete(trial);
      strengthsUnderWay.delete(trial);
    }
  }
}
