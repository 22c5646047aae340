'use client';

import { useMemo } from 'react';
import { type Mix, mixFactors } from '@/core/moods';
import { lightGroups, type SceneDocument, sceneChanges } from '@/core/scene';
import { words } from '@/core/words';
import type { Patient } from '@/render/advice/patient';
import type { Rewritten } from '@/render/advice/rewritten';
import type { FilmClient } from '@/render/page/client';
import { Word } from '../../parts/controls';
import type { OwnColors } from '../../state/mixing';
import { useRewritten } from '../../state/rewritten-store';
import { useDocument } from '../../state/scene-now';

/** Has patches traced anew with the lights as they were written, and holds them against what the mix showed. */
export async function checkPatches(
  client: FilmClient,
  patient: Patient,
  to: SceneDocument,
  { mix, rest, own }: { mix: Mix; rest: Mix; own: OwnColors },
): Promise<void> {
  const groups = lightGroups(patient.document);
  const before = mixFactors(groups, mix, own);
  const after = mixFactors(groups, rest, own);
  const note = (done: number, of: number) => useRewritten.setState({ state: 'tracing', done, of, to }, true);
  note(0, 1);
  try {
    const asked = { patient, to, before, after };
    const told = await client.ask('rewritten', asked, { onStep: (s) => note(s.done, s.of) });
    useRewritten.setState({ state: 'told', told, to }, true);
  } catch (error) {
    useRewritten.setState({ state: 'failed', fault: (error as Error).message, to }, true);
  }
}

const LEAST_CUT = 0.05;

/** What patches told of the mix that was written to the lights last; nothing before one was, and once the scene is another. */
export function Written() {
  const now = useRewritten();
  const document = useDocument();
  const of = now.state === 'none' ? null : now.to;
  const isOfIt = useMemo(() => of !== null && sceneChanges(of, document).length === 0, [of, document]);
  if (now.state === 'none' || !isOfIt) return null;
  const close = () => useRewritten.setState({ state: 'none' }, true);
  const text =
    now.state === 'tracing'
      ? `Written: tracing patches anew with the lights as they are now, ${Math.round((now.done / now.of) * 100)} %.`
      : now.state === 'failed'
        ? `Patches were not traced: ${now.fault}.`
        : patchWords(now.told);
  return (
    <p className="flex gap-2 px-3.5 pb-2 text-soft" data-testid="written-back">
      <span className="min-w-0 flex-1">{text}</span>
      {now.state !== 'tracing' && (
        <Word className="shrink-0 self-start !px-0" onClick={close}>
          close
        </Word>
      )}
    </p>
  );
}

/** How far patches are from what the mix showed, and what explains it. */
export function patchWords({ patches, apart, noise, cut, cutByGroup, isExplained }: Rewritten): string {
  const share = (v: number) => `${v < 0 ? '−' : '+'}${Math.abs(v).toFixed(2)} %`;
  const [most] = Object.entries(cutByGroup).sort((a, b) => Math.abs(b[1]) - Math.abs(a[1]));
  const isCut = Math.abs(cut) >= LEAST_CUT;
  const limits = isCut ? `, ${share(cut)} of it by outlier limits, most in ${words(most[0])}` : '';
  const rest = `${isCut ? 'the rest ' : 'it '}${isExplained ? 'is within' : 'is beyond'} their noise of ±${noise.toFixed(2)} %`;
  return `Written: ${patches} patches traced anew have ${share(apart)} light${limits}; ${rest}.`;
}
