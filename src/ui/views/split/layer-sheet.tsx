'use client';

import { finished } from '@/contract/trial';
import { layerInfo } from '@/core/film';
import { writes } from '@/core/outputs';
import { percent as percentOfWhite, two } from '@/core/words';
import type { FilmOf } from '@/render/views/film-of';
import { Small } from '../../parts/small-picture';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { pickedOutput, useOutputs } from '../../state/outputs-store';
import { useSlotFilm, useWholeSlot } from '../../state/slots';
import { trialLayers } from '../../state/sources';
import { listed, percent } from './layers';
import { useLayerNoise } from './use-layer-noise';

/** Pixels that the pictures are across. */
const ACROSS = 144;

/** Every layer of the trial in A beside each other: its picture, its share of the light, the noise that it brings. */
export function LayerSheet() {
  const trial = useWholeSlot('A');
  const of = useSlotFilm('A');
  const output = useOutputs(pickedOutput);
  const layer = useDesk((s) => s.layer);
  const isPlain = useDesk((s) => s.overlay === 'none');
  const has = trial && finished(trial) ? trialLayers(trial) : null;
  const shares = useAsk('lightShares', of && has ? { of, layers: has } : null, { of: trial?.state, keep: true }).answer;
  const noises = useLayerNoise(has && trial, has, output);
  if (!trial || !has || !of)
    return <p className="px-3 py-2 text-soft">Put a finished trial into A: its layers stand here beside each other.</p>;
  // A layer that is made of others, as a mask is, stands in no cell.
  const looked = isPlain && has.includes(layer) ? layer : null;
  return (
    <ul
      aria-label={`layers of ${two(trial.number)}`}
      className="grid min-h-0 flex-1 grid-cols-[repeat(auto-fill,minmax(144px,1fr))] content-start gap-x-2 gap-y-1.5 overflow-y-auto px-3 pt-1 pb-2"
      data-testid="layer-sheet"
    >
      {listed(has).map((name) => (
        <LayerCell
          key={name}
          of={of}
          name={name}
          shown={looked === name}
          written={output !== null && writes(output, name)}
          share={shares?.[name] ?? null}
          noise={(name === 'beauty' ? trial.noise?.rms : noises?.[name]?.rms) ?? null}
        />
      ))}
    </ul>
  );
}

function LayerCell({
  of,
  name,
  shown,
  written,
  share,
  noise,
}: {
  of: FilmOf;
  name: string;
  shown: boolean;
  written: boolean;
  share: number | null;
  noise: number | null;
}) {
  const { answer } = useAsk('layerPicture', { of, name, across: ACROSS }, { keep: true });
  const { words } = layerInfo(name);
  return (
    <li>
      <button
        type="button"
        aria-pressed={shown}
        aria-label={words}
        className={`block w-full text-left outline-offset-1 ${shown ? 'outline-2 outline-fill' : 'hover:outline hover:outline-soft'}`}
        onClick={() => useDesk.getState().set({ layer: name, overlay: 'none', range: null })}
      >
        <span className="block aspect-video w-full overflow-hidden bg-pit">{answer && <Small picture={answer} />}</span>
        <span className={`block truncate px-0.5 text-[11.5px] ${written ? '' : 'text-dim'}`}>
          {words}
          {written ? '' : ' · unwritten'}
        </span>
        <span className="num block h-4 px-0.5 text-[11px] leading-4 text-dim">
          {[share !== null && percent(share), noise !== null && `noise ${percentOfWhite(noise)}`]
            .filter(Boolean)
            .join(' · ')}
        </span>
      </button>
    </li>
  );
}
