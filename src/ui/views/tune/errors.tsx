'use client';

import { useState } from 'react';
import { relativeEfficiency } from '@/contract/trial';
import { efficiency, type Noise } from '@/core/stats';
import { clock, percent } from '@/core/words';
import type { WithinBoth } from '@/render/questions/within';
import type { Within } from '@/render/views/overlap';
import type { Area } from '@/render/views/place';
import { Word } from '../../parts/controls';
import { Tabs } from '../../parts/tabs';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { type Figures, useFigures } from '../../state/figures';
import { useProbe } from '../../state/probe-store';
import { useRecipe } from '../../state/recipe-store';
import { useSlotTrial, useWholeSlot } from '../../state/slots';

const ratio = (a: number | null | undefined, b: number | null | undefined) => (a && b ? `×${(a / b).toFixed(2)}` : '–');

type Part = 'whole' | 'region' | 'cursor';
const PARTS: { name: Part; label: string; tip: string }[] = [
  { name: 'whole', label: 'whole', tip: 'Figures of all that A and B show.' },
  { name: 'region', label: 'region', tip: 'Figures within the region that is drawn (R).' },
  { name: 'cursor', label: 'at the cursor', tip: 'Figures of a square about the cursor, a tenth of the picture wide.' },
];
const ACROSS = 0.1;
const EVERY_MS = 150;
const TOLD_AFTER_MS = 80;

/** Which pictures A and B are, once the film worker can have them. */
function useShownOf(): string | null {
  const a = useDesk((s) => s.a);
  const b = useDesk((s) => s.b);
  const [wholeA, wholeB] = [useWholeSlot('A'), useWholeSlot('B')];
  const there = (a.kind !== 'trial' || wholeA) && (b?.kind !== 'trial' || wholeB);
  return there ? JSON.stringify([a, b, wholeA?.state, wholeB?.state]) : null;
}

/** Figures of A and B within the region, or about the cursor where it rests last. */
function useWithin(part: Part, region: Area | null): WithinBoth | null {
  const shown = useShownOf();
  const at = useProbe((s) => (part === 'cursor' ? s.at : null));
  const { width, height } = useRecipe((s) => s.recipe)!.size;
  const box = at && {
    x: Math.max(0, at.x - ACROSS / 2),
    y: Math.max(0, at.y - (ACROSS / 2) * (width / height)),
    w: ACROSS,
    h: ACROSS * (width / height),
  };
  const area = part === 'region' ? region : part === 'cursor' ? box : null;
  const asked = area && shown !== null ? { area } : null;
  return useAsk('within', asked, { of: shown, afterMs: EVERY_MS, keep: true }).answer;
}

interface Column {
  noise: Noise | null;
  seconds: number | null;
}

const wholeOf = (f: Figures | null): Column => ({
  noise: f?.noise ?? null,
  seconds: f?.told ?? null,
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
  const overlay = useDesk((s) => s.overlay);
  const pickA = useDesk((s) => s.a);
  const pickB = useDesk((s) => s.b);
  const [trialA, trialB] = [useSlotTrial('A'), useSlotTrial('B')];
  const [figuresA, figuresB] = [useFigures('A'), useFigures('B')];
  const recipe = useRecipe((s) => s.recipe)!;
  const [part, setPart] = useState<Part>('whole');
  const inPart = useWithin(part, recipe.region);
  const still = pickA.kind === 'trial' && pickB !== null && pickB.kind !== 'live';
  const shown = useShownOf();
  // The film worker is told what A and B show first.
  const far = useAsk('errors', still && shown !== null ? {} : null, { of: shown, afterMs: TOLD_AFTER_MS });
  if (!pickB)
    return (
      <p className="px-3 pt-2 text-soft">
        Choose a trial for B (a click with Alt in the logbook), or a reference in Set-up.
      </p>
    );
  const own = [figuresA, pickB.kind === 'reference' ? null : figuresB] as const;
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
  const e = far.answer;
  const rowsFar: [string, string, string][] = e
    ? [
        ['RMSE', e.rmse.toPrecision(3), 'root mean square of the difference in linear light'],
        ['relMSE', e.relMse.toPrecision(3), 'mean squared error relative to brightness, linear'],
        ['PSNR', Number.isFinite(e.psnr) ? `${e.psnr.toFixed(1)} dB` : '∞', 'peak signal to noise, as displayed'],
        ['SSIM', e.ssim.toFixed(4), 'structural similarity as displayed; 1 is the same'],
        ['FLIP', e.flip.toFixed(4), 'how different both look when flicked between, 0 to 1'],
      ]
    : [];
  const parts = PARTS.map((p) => ({ ...p, disabled: p.name === 'region' && !recipe.region }));
  return (
    <div className="flex min-h-0 flex-1 gap-10 px-3" data-testid="against">
      <div className="w-[400px]">
        <Tabs label="part that is compared" tabs={parts} value={part} onChange={(name) => setPart(name as Part)}>
          <table className="num w-full text-[11.5px]">
            <thead>
              <tr className="text-left text-dim">
                <th className="w-24 font-normal" />
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
        </Tabs>
      </div>
      <div className="flex-1">
        <p className="flex items-center gap-3 text-dim">
          How far A is from B, taken as the truth
          {e && (
            <Word
              on={overlay === 'flip'}
              onClick={() => useDesk.getState().set({ overlay: overlay === 'flip' ? 'none' : 'flip' })}
            >
              FLIP map
            </Word>
          )}
        </p>
        {far.fault && <p className="text-soft">{far.fault}</p>}
        {!still && !far.fault && <p className="text-soft">Of two trials, or a trial and a reference.</p>}
        {still && !e && !far.fault && <p className="text-soft">measuring</p>}
        {rowsFar.map(([name, value, words]) => (
          <p key={name} className="num grid h-[19px] grid-cols-[64px_84px_1fr] text-[11.5px]">
            <span className="text-dim">{name}</span> {value}
            <span className="font-sans text-dim">{words}</span>
          </p>
        ))}
      </div>
    </div>
  );
}
