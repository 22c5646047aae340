'use client';

import type { DepthAdvice, DepthAxis } from '@/render/depth-advice';
import { Plain, Tip, Word } from '../parts/controls';
import { usePatient } from '../setup/use-patient';
import { adviceFor, useCure } from '../state/cure-store';
import { useScene } from '../state/scene-store';
import { useSession } from '../state/session';
import { StepLine } from '../tune/step-line';
import { askLong } from '../tune/use-search';

/** What was measured about the depth of the scene and recipe as they stand, on an axis. */
export function useAdvice(axis: DepthAxis | null): DepthAdvice | null {
  const patient = usePatient();
  const advice = adviceFor(useCure(), patient);
  return advice?.axis === axis ? advice : null;
}

const MOST = 5;

/** Which objects need how deep rays, and what limits of their own would save. */
export function AdviceColumn({ axis }: { axis: DepthAxis }) {
  const { client, ready, timed } = useSession();
  const patient = usePatient();
  const advice = useAdvice(axis);
  const { step, stop } = useCure();
  const ask = async () => {
    if (!patient || step) return;
    const found = await askLong<DepthAdvice>(client, { type: 'measure', what: 'advice', patient, axis });
    if (found) useCure.setState({ advice: found, adviceOf: patient });
  };
  const saving = advice?.saving ?? null;
  const saved = saving ? Math.round((1 - saving.time) * 100) : 0;
  const take = () => {
    if (saving) useScene.getState().edit(`${axis} limits of ${saving.objects.length} objects`, () => saving.document);
  };
  return (
    <div className="flex w-[122px] shrink-0 flex-col pt-1 pr-3" data-testid="depth-advice">
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
      {advice && (
        <ul className="mt-1 text-[11.5px]">
          {advice.objects.slice(0, MOST).map((o) => (
            <li key={o.object} className="flex gap-1">
              <span className="min-w-0 flex-1 truncate">{o.object}</span>
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
