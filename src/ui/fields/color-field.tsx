'use client';

import type { ReactNode } from 'react';
import { HexColorPicker } from 'react-colorful';
import { decodeSrgb, encodeSrgb, luminance } from '@/core/image';
import { Popover } from '../parts/popover';
import { NumberField } from './number-field';

export type Rgb = [number, number, number];

/** `#rrggbb` of a linear colour, cut at white. */
function hexOf(rgb: Rgb): string {
  return `#${rgb
    .map((c) =>
      Math.round(encodeSrgb(Math.min(1, Math.max(0, c))) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
}

const linearOf = (hex: string): Rgb => {
  const n = Number.parseInt(hex.slice(1), 16);
  return [16, 8, 0].map((s) => Number(decodeSrgb(((n >> s) & 255) / 255).toFixed(4))) as Rgb;
};

/** A colour in linear light: by eye, by number, or by what `children` offer. */
export function ColorField({
  label,
  value,
  mixed,
  compact,
  children,
  onChange,
  onSettled,
}: {
  label: string;
  value: Rgb;
  /** Several things differ in it. */
  mixed?: boolean;
  /** Shown as a swatch alone. */
  compact?: boolean;
  children?: ReactNode;
  onChange: (value: Rgb, drag: boolean) => void;
  onSettled: () => void;
}) {
  return (
    <Popover
      align="end"
      width="w-60"
      onOpenChange={(open) => !open && onSettled()}
      trigger={
        <button
          type="button"
          aria-label={label}
          className={`flex items-center gap-2 rounded-sm border border-line bg-pit hover:border-soft ${compact ? 'p-[2px]' : 'w-[136px] px-1.5 py-[3px]'}`}
        >
          {mixed ? (
            <span className="flex-1 text-left text-dim">≠ differ</span>
          ) : (
            <>
              <span className="h-3.5 w-5 rounded-[1px] border border-white/20" style={{ background: hexOf(value) }} />
              {!compact && (
                <span className="num flex-1 text-left text-[11px] text-soft">
                  {value.map((c) => Number(c.toPrecision(2))).join(' ')}
                </span>
              )}
            </>
          )}
        </button>
      }
    >
      <HexColorPicker color={hexOf(value)} onChange={(h) => onChange(linearOf(h), true)} style={{ width: '100%' }} />
      <div className="mt-2 flex gap-1">
        {['red', 'green', 'blue'].map((name, k) => (
          <NumberField
            key={name}
            label={`${label} ${name}`}
            value={Number(value[k].toPrecision(4))}
            step={0.01}
            width="w-[70px]"
            onChange={(v) => {
              if (v === null || v < 0) return 'a colour is 0 or more';
              onChange(value.map((c, i) => (i === k ? v : c)) as Rgb, false);
              return null;
            }}
          />
        ))}
      </div>
      <p className="num mt-1.5 text-[11px] text-dim">
        linear Rec.709 · {hexOf(value)} in sRGB · luminance {luminance(...value).toPrecision(3)}
      </p>
      {children}
    </Popover>
  );
}
