'use client';

import { useEffect, useState } from 'react';
import { efficiency, type Noise } from '@/core/stats';
import type { AgainstB, Area, WithinBoth } from '@/render/film-protocol';
import type { Within } from '@/render/overlap';
import { Tip, Word } from '../parts/controls';
import { useProbe } from '../picture/probe-store';
import { useDesk } from '../state/desk-store';
import { type Figures, figuresOf, relativeEfficiency } from '../state/figures';
import { clock, percent } from '../state/format';
import { useRecipe } from '../state/recipe-store';
import { useSession } from '../state/session';

const ratio = (a: number | null | undefined, b: number | null | undefined) => (a && b ? `×${(a / b).toFixed(2)}` : '–');

type Part = 'whole' | 'region' | 'cursor';
const PARTS: { part: Part; label: string; tip: string }[] = [
  { part: 'whole', label: 'whole', tip: 'Figures of all that A and B show.' },
  { part: 'region', label: 'region', tip: 'Figures within the region that is drawn (R).' },
  { part: 'cursor', label: 'at the cursor', tip: 'Figures of a square about the cursor, a tenth of the picture wide.' },
];
const ACROSS = 0.1;
const EVERY_MS = 150;

/** Figures of A and B within the region, or about the cursor where it rests last. */
function useWithin(part: Part, region: Area | null): WithinBoth | null {
  const { client, trialA, trialB } = useSession();
  const desk = useDesk();
  const at = useProbe((s) => s.at);
  const { width, height } = useRecipe((s) => s.recipe)!.size;
  const [found, setFound] = useState<WithinBoth | null>(null);
  const box = at && {
    x: Math.max(0, at.x - ACROSS / 2),
    y: Math.max(0, at.y - (ACROSS / 2) * (width / height)),
    w: ACROSS,
    h: ACROSS * (width / height),
  };
  const area = part === 'region' ? region : part === 'cursor' ? box : null;
  const key = JSON.stringify([area, desk.a, desk.b, trialA?.state, trialB?.state]);
  useEffect(() => {
    const [asked] = JSON.parse(key) as [Area | null];
    if (!asked) return;
    let current = true;
    const timer = setTimeout(() => {
      client
        .measure<WithinBoth>({ type: 'measure', what: 'within', area: asked })
        .then((w) => current && setFound(w))
        .catch(() => current && setFound(null));
    }, EVERY_MS);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [client, key]);
  return found;
}

interface Column {
  noise: Noise | null;
  seconds: number | null;
}

const wholeOf = (f: Figures | null): Column => ({
  noise: f?.noise ?? null,
  seconds: f ? (f.calibrated ?? f.seconds) : null,
});

/** A part's own noise, and the seconds that its share of the cost comes to. */
function partOf(f: Figures | null, w: Within | null | undefined): Column {
  const { seconds } = wholeOf(f);
  return {
    noise: w?.noise ?? null,
    seconds: seconds !== null && w?.costShare != null ? seconds * w.costShare : null,
  };
}

/** Efficiency of A over B by the figures of the same part. */
function gainOf(a: Column, b: Column): number | null {
  if (!a.noise || !b.noise || !a.seconds || !b.seconds) return null;
  return efficiency(a.noise.rms, a.seconds) / efficiency(b.noise.rms, b.seconds);
}

/** A and B side by side in figures, and how far A is from B. */
export function ErrorsChart() {
  const session = useSession();
  const desk = useDesk();
  const { client, trialA, trialB } = session;
  const [errors, setErrors] = useState<AgainstB | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const recipe = useRecipe((s) => s.recipe)!;
  const [part, setPart] = useState<Part>('whole');
  const inPart = useWithin(part, recipe.region);
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
  const own = [figuresOf(session, 'A'), desk.b.kind === 'reference' ? null : figuresOf(session, 'B')] as const;
  const [a, b] = part === 'whole' ? own.map(wholeOf) : [partOf(own[0], inPart?.a), partOf(own[1], inPart?.b)];
  const gain = part === 'whole' ? relativeEfficiency(trialA, trialB) : gainOf(a, b);
  const rows: [string, string, string, string][] = [
    ['noise', percent(a.noise?.rms), percent(b.noise?.rms), ratio(a.noise?.rms, b.noise?.rms)],
    ['p95', percent(a.noise?.p95), percent(b.noise?.p95), ratio(a.noise?.p95, b.noise?.p95)],
    [
      'worst cell',
      percent(a.noise?.worstCell),
      percent(b.noise?.worstCell),
      ratio(a.noise?.worstCell, b.noise?.worstCell),
    ],
    ['time', clock(a.seconds), clock(b.seconds), ratio(a.seconds, b.seconds)],
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
      <div className="flex-1">
        <div className="flex" role="toolbar" aria-label="part that is compared">
          {PARTS.map(({ part: p, label, tip }) => (
            <Tip key={p} text={tip}>
              <Word
                on={part === p}
                disabled={p === 'region' && !recipe.region}
                onClick={() => setPart(p)}
                className="!px-1 !py-0 text-[11.5px]"
              >
                {label}
              </Word>
            </Tip>
          ))}
        </div>
        <table className="num w-full text-[11.5px]">
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
              <tr key={name} className="h-[18px]">
                <td className="pr-2 whitespace-nowrap text-dim">{name}</td>
                <td className="pr-2">{va}</td>
                <td className="pr-2">{vb}</td>
                <td>{d}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
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
