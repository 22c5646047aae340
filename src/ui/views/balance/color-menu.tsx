'use client';

import { HexColorPicker } from 'react-colorful';
import { encodeSrgb, hexToRgb, rgbToHex } from '@/core/image';
import { emittedColor, emptyChannels, type MixColor } from '@/core/moods';
import { NumberField } from '../../fields/number-field';
import { Tip, Word } from '../../parts/controls';
import { Popover } from '../../parts/popover';

const KELVINS = [2000, 2800, 3200, 4300, 5600, 6500, 9500];
const [LEAST_KELVIN, MOST_KELVIN] = [1000, 40000];
const CHANNELS = ['red', 'green', 'blue'] as const;
const WHITE: readonly number[] = [1, 1, 1];

/** A colour as bright as the screen has it: its strongest channel at white. */
export function swatch(rgb: readonly number[]): string {
  const most = Math.max(...rgb, 1e-6);
  return `rgb(${rgb.map((c) => Math.round(encodeSrgb(Math.max(0, c) / most) * 255)).join(' ')})`;
}

/** What is said of a group's colour in a few words. */
export function colorWords(color: MixColor): string {
  if (color.kind === 'kelvin') return `${Math.round(color.kelvin)} K`;
  if (color.kind === 'emitted') return 'picked';
  return color.kind === 'tint' ? 'tinted' : 'own';
}

/** The colour that a light group emits: by kelvin or picked, whatever it was rendered with, or a tint of that. */
export function ColorMenu({
  label,
  color,
  own,
  onChange,
  onSettled,
  onWhite,
}: {
  label: string;
  color: MixColor;
  /** What it emitted when it was rendered; null while that is worked out. */
  own: readonly number[] | null;
  onChange: (color: MixColor, drag: boolean) => void;
  onSettled: () => void;
  /** Makes its lights white; null where they are, or cannot be. */
  onWhite: (() => void) | null;
}) {
  const from = own ?? WHITE;
  const now = emittedColor(color, from);
  const wanting = emptyChannels(from).filter((c) => !emptyChannels(now).includes(c));
  const tint = color.kind === 'tint' ? color.rgb : ([1, 1, 1] as [number, number, number]);
  return (
    <Popover
      side="left"
      width="w-64"
      onOpenChange={(open) => !open && onSettled()}
      trigger={
        <button
          type="button"
          aria-label={`colour of ${label}: ${colorWords(color)}`}
          className="flex items-center gap-1.5 text-[11px] text-dim hover:text-ink"
        >
          <span className="h-3.5 w-5 rounded-[1px] border border-white/20" style={{ background: swatch(now) }} />
          <span className="num w-[42px] text-left">{colorWords(color)}</span>
        </button>
      }
    >
      <p className="mb-1.5 flex items-center gap-2 text-dim">
        emits
        <span className="h-3.5 w-5 rounded-[1px] border border-white/20" style={{ background: swatch(from) }} />
        as rendered
        <Word on={color.kind === 'own'} className="ml-auto" onClick={() => onChange({ kind: 'own' }, false)}>
          own
        </Word>
      </p>
      <HexColorPicker
        color={rgbToHex(now.map((c) => c / Math.max(...now, 1e-6)) as [number, number, number])}
        onChange={(h) => {
          const rgb = hexToRgb(h);
          if (rgb.some((c) => c > 0)) onChange({ kind: 'emitted', rgb }, true);
        }}
        style={{ width: '100%' }}
      />
      <div className="mt-2 flex flex-wrap items-center gap-0.5">
        {KELVINS.map((kelvin) => (
          <Word
            key={kelvin}
            on={color.kind === 'kelvin' && color.kelvin === kelvin}
            className="num !px-1 text-[11px]"
            onClick={() => onChange({ kind: 'kelvin', kelvin }, false)}
          >
            {kelvin}
          </Word>
        ))}
        <NumberField
          label={`kelvin of ${label}`}
          value={color.kind === 'kelvin' ? color.kelvin : null}
          off="–"
          step={100}
          width="w-[84px]"
          suffix="K"
          onChange={(kelvin) => {
            if (kelvin === null) onChange({ kind: 'own' }, false);
            else if (kelvin < LEAST_KELVIN || kelvin > MOST_KELVIN) return `${LEAST_KELVIN} to ${MOST_KELVIN} K`;
            else onChange({ kind: 'kelvin', kelvin }, false);
            return null;
          }}
        />
      </div>
      <Tip text="Every channel of the light as it was rendered, times this: brightness goes with it.">
        <p className="mt-2 text-dim">or a tint of its own light</p>
      </Tip>
      <div className="mt-1 flex gap-1">
        {CHANNELS.map((name, k) => (
          <NumberField
            key={name}
            label={`${label} tint ${name}`}
            value={Number(tint[k].toPrecision(3))}
            step={0.05}
            width="w-[74px]"
            onChange={(v) => {
              if (v === null || v < 0 || v > 1000) return '0 to 1000';
              onChange({ kind: 'tint', rgb: tint.map((c, i) => (i === k ? v : c)) as typeof tint }, false);
              return null;
            }}
          />
        ))}
      </div>
      {wanting.length > 0 && (
        <p className="mt-2 text-[11.5px] text-soft">
          This light emits nearly no {wanting.join(' or ')}: what is lifted there is mostly noise.
        </p>
      )}
      {onWhite && (
        <Tip text="Makes its lights white in the scene, each as bright as it is, and puts their colour into the mix. What is rendered then holds every channel, so that any colour can be given to it afterwards.">
          <Word className="mt-2 !px-0" onClick={onWhite}>
            record it white, and keep the colour here
          </Word>
        </Tip>
      )}
    </Popover>
  );
}
