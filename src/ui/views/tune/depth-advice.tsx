'use client';

import type { DepthAxis } from '@/render/advice/axis';
import type { DepthAdvice } from '@/render/advice/depth';
import { WaitsFor } from '../../logbook/waits-for';
import { Plain, Tip, Word } from '../../parts/controls';
import { useClient } from '../../state/client';
import { adviceFor, useCure } from '../../state/cure-store';
import { useReady } from '../../state/live-store';
import { usePatient } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { shortened } from '../../state/shortened';
import { useTimed } from '../../state/trials-store';
import { StepLine } from './step-line';
import { askLong } from './use-search';

/** What was measured about the depth of the scene and recipe as they stand, on an axis. */
export function useAdvice(axis: DepthAxis | null): DepthAdvice | null {
  const patient = usePatient();
  const advice = useCure((s) => s.advice);
  const adviceOf = useCure((s) => s.adviceOf);
  const own = adviceFor({ advice, adviceOf }, patient);
  return own?.axis === axis ? own : null;
}

const MOST = 6;

/** Which objects need how deep rays, and what limits of their own would save. */
export function AdviceColumn({ axis }: { axis: DepthAxis }) {
  const client = useClient();
  const ready = useReady();
  const timed = useTimed();
  const patient = usePatient();
  const advice = useAdvice(axis);
  const step = useCure((s) => s.step);
  const stop = useCure((s) => s.stop);
  const ask = async () => {
    if (!patient || step) return;
    const found = await askLong(client, 'advice', { patient, axis });
    if (found) useCure.setState({ advice: found, adviceOf: patient });
  };
  const saving = advice?.saving ?? null;
  const saved = saving ? Math.round((1 - saving.time) * 100) : 0;
  const take = () => {
    if (saving) useScene.getState().edit(`${axis} limits of ${saving.objects.length} objects`, () => saving.document);
  };
  return (
    <div className="flex w-[300px] shrink-0 flex-col pt-1 pr-3" data-testid="depth-advice">
      {step?.what === 'advice' ? (
        <>
          <Word onClick={() => stop?.()}>Stop</Word>
          <StepLine of="advice" />
        </>
      ) : (
        <Tip text="Renders the frame small: how deep each object needs rays to go, what every limit costs in time (dotted), and what limits of their own would save.">
          <Plain className="!px-2 !py-0.5" disabled={!ready || timed || step !== null} onClick={() => void ask()}>
            {advice ? 'Ask again' : 'Which objects?'}
          </Plain>
        </Tip>
      )}
      {step === null && <WaitsFor />}
      {advice && (
        <ul className="mt-1 columns-2 gap-4 text-[11.5px]">
          {advice.objects.slice(0, MOST).map((o) => (
            <li key={o.object} className="flex gap-1 break-inside-avoid">
              <span className="min-w-0 flex-1">{shortened(o.object, 16)}</span>
              <span className="num">{o.enough ?? 'more'}</span>
            </li>
          ))}
        </ul>
      )}
      {saving && saved < 1 && <p className="mt-0.5 text-[11.5px] text-dim">limits of their own would save no time</p>}
      {saving && saved >= 1 && (
        <Tip
          side="left"
          text={`Limits of their own for ${saving.objects.join(', ')}: one bounce above what the camera needs. Measured to save ${saved} % of the time.`}
        >
          <Word className="mt-0.5 !px-0 text-left" onClick={take}>
            limit {saving.objects.length} {saving.objects.length === 1 ? 'object' : 'objects'}: −{saved} %
          </Word>
        </Tip>
      )}
    </div>
  );
}
