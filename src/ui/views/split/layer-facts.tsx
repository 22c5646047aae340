'use client';

import type { Trial } from '@/contract/trial';
import { layerInfo } from '@/core/film';
import type { Output } from '@/core/outputs';
import { bytes, percent } from '@/core/words';
import type { LayerNoise } from '@/render/questions/layer-noise';
import { Word } from '../../parts/controls';
import { useDesk } from '../../state/desk-store';
import { sizeOf } from './sizes';

/** What is known of the layer that is looked at: the noise that it brings, also in the worst mood, and its size before packing. */
export function LayerFacts({
  name,
  trial,
  output,
  noise,
}: {
  name: string;
  trial: Trial;
  output: Output;
  noise: LayerNoise | undefined;
}) {
  const { least, most } = sizeOf([name], trial, output);
  const parts = [
    noise && `noise ${percent(noise.rms)}`,
    noise?.worst && `${percent(noise.worst.rms)} in ${noise.worst.mood}`,
    `${least < most ? `${bytes(least)} to ` : ''}${bytes(most)} before packing`,
  ].filter(Boolean);
  return (
    <p className="num px-3.5 pb-1 pl-9 text-[11px] text-soft" data-testid="layer-facts">
      {parts.join(' · ')}
    </p>
  );
}

/** Written parts that come out noisier than the target, in the worst of the moods where there are any, and the way to their cures. */
export function NoisyParts({
  written,
  noises,
}: {
  written: readonly string[];
  noises: Record<string, LayerNoise> | null;
}) {
  const target = useDesk((s) => s.target);
  const noisy = written
    .flatMap((n) => {
      const own = noises?.[n];
      if (!own) return [];
      const worst = own.worst && own.worst.rms > own.rms ? own.worst : { mood: null, rms: own.rms };
      return worst.rms > target ? [{ name: n, ...worst }] : [];
    })
    .sort((a, b) => b.rms - a.rms);
  if (noisy.length === 0) return null;
  const inMoods = noisy.some((n) => n.mood !== null);
  const cure = () =>
    useDesk.getState().set({
      view: 'tune',
      overlay: 'noise',
      noiseOf: layerInfo(noisy[0].name).group,
      targetMood: inMoods ? '' : null,
    });
  return (
    <p className="px-3.5 pb-1 text-[11.5px]" role="status" data-testid="noisy-parts">
      Above {percent(target)}:{' '}
      {noisy.map((n) => `${layerInfo(n.name).words} ${percent(n.rms)}${n.mood ? ` in ${n.mood}` : ''}`).join(', ')}
      <Word className="text-[11px] underline" onClick={cure}>
        find its cure
      </Word>
    </p>
  );
}
