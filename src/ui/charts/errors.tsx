'use client';

import { useEffect, useState } from 'react';
import type { AgainstB } from '@/render/film-protocol';
import { Tip, Word } from '../parts/controls';
import { useDesk } from '../state/desk-store';
import { figuresOf, relativeEfficiency } from '../state/figures';
import { clock, percent } from '../state/format';
import { useSession } from '../state/session';

const ratio = (a: number | null | undefined, b: number | null | undefined) => (a && b ? `×${(a / b).toFixed(2)}` : '–');
/** A and B side by side in figures, and how far A is from B. */
export function ErrorsChart() {
  const session = useSession();
  const desk = useDesk();
  const { client, trialA, trialB } = session;
  const [errors, setErrors] = useState<AgainstB | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const still = desk.a.kind === 'trial' && desk.b !== null && desk.b.kind !== 'live';
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked anew for other pictures
  useEffect(() => {
    setErrors(null);
    setFault(null);
    if (!still) return;
    let current = true;
    // The film worker is told what A and B show first.
    const timer = setTimeout(
      () =>
        client
          .measure<AgainstB>({ type: 'measure', what: 'errors' })
          .then((e) => current && setErrors(e))
          .catch((e) => current && setFault((e as Error).message)),
      80,
    );
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [client, still, trialA?.id, trialA?.state, trialB?.id, trialB?.state, desk.b]);
  if (!desk.b)
    return (
      <p className="px-3 pt-2 text-soft">
        Choose a trial for B (a click with Alt in the logbook), or a reference in Set-up.
      </p>
    );
  const [a, b] = [figuresOf(session, 'A'), desk.b.kind === 'reference' ? null : figuresOf(session, 'B')];
  const gain = relativeEfficiency(trialA, trialB);
  const rows: [string, string, string, string][] = [
    ['noise', percent(a.noise?.rms), percent(b?.noise?.rms), ratio(a.noise?.rms, b?.noise?.rms)],
    ['p95', percent(a.noise?.p95), percent(b?.noise?.p95), ratio(a.noise?.p95, b?.noise?.p95)],
    [
      'worst cell',
      percent(a.noise?.worstCell),
      percent(b?.noise?.worstCell),
      ratio(a.noise?.worstCell, b?.noise?.worstCell),
    ],
    [
      'time',
      clock(a.calibrated ?? a.seconds),
      clock(b && (b.calibrated ?? b.seconds)),
      ratio(a.calibrated, b?.calibrated),
    ],
    ['efficiency', '', '', gain ? `×${gain.toFixed(2)}` : '–'],
  ];
  const e = errors?.errors;
  const far: [string, string, string][] = e
    ? [
        ['RMSE', e.rmse.toPrecision(3), 'Root mean square of the difference in linear light.'],
        ['relMSE', e.relMse.toPrecision(3), 'Mean squared difference over squared brightness, linear.'],
        ['PSNR', Number.isFinite(e.psnr) ? `${e.psnr.toFixed(1)} dB` : '∞', 'Peak signal to noise as displayed.'],
        ['SSIM', e.ssim.toFixed(4), 'Structural similarity as displayed; 1 is the same.'],
        ['FLIP', e.flip.toFixed(4), 'How different both look when flicked between on a screen, 0 to 1.'],
      ]
    : [];
  return (
    <div className="flex min-h-0 flex-1 gap-5 px-3 pt-1.5" data-testid="against">
      <table className="num flex-1 text-[11.5px]">
        <thead>
          <tr className="text-left text-dim">
            <th className="font-normal" />
            <th className="font-normal">A</th>
            <th className="font-normal">B</th>
            <th className="font-normal">A over B</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, va, vb, d]) => (
            <tr key={name} className="h-[21px]">
              <td className="text-dim">{name}</td>
              <td className="pr-2">{va}</td>
              <td className="pr-2">{vb}</td>
              <td>{d}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="w-[118px]">
        <p className="text-dim">A from B</p>
        {fault && <p className="text-soft">{fault}</p>}
        {!still && !fault && <p className="text-soft">Of two trials, or a trial and a reference.</p>}
        {still && !errors && !fault && <p className="text-soft">measuring…</p>}
        {far.map(([name, value, tip]) => (
          <Tip key={name} text={tip} side="left">
            <p className="num flex h-[20px] justify-between text-[11.5px]">
              <span className="text-dim">{name}</span> {value}
            </p>
          </Tip>
        ))}
        {e && (
          <Word
            on={desk.overlay === 'flip'}
            onClick={() => desk.set({ overlay: desk.overlay === 'flip' ? 'none' : 'flip' })}
          >
            FLIP map
          </Word>
        )}
      </div>
    </div>
  );
}
