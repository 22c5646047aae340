'use client';

import { at, keyOf, type Path } from '@/core/comp';
import { Amount } from '../../fields/amount';
import { ColorField, type Rgb } from '../../fields/color-field';
import { settle } from '../../state/history';
import { useStack } from '../../state/stack-store';
import { put, toggleKey } from './actions';
import type { FieldOf, NumberOf } from './operation-fields';

/** A number of the stack in place: typed, stepped, dragged, keyed. `value`: what it is at the frame. */
export function StackNumber({
  path,
  value,
  frame,
  of,
  name,
}: {
  path: Path;
  value: number | null;
  frame: number;
  of: NumberOf;
  /** What it is of, in words. */
  name: string;
}) {
  const keyed = useStack((s) => keyOf(s.stack && at(s.stack, path)) !== null);
  const words = `${of.label} of ${name}`;
  return (
    <Amount
      label={words}
      value={value === null ? null : Number((value / of.per).toFixed(6))}
      step={of.step}
      least={of.least}
      most={of.most}
      off={of.off}
      keyed={keyed}
      onChange={(v, drag) => put(words, path, v === null ? null : Number((v * of.per).toPrecision(12)), frame, drag)}
      onSettled={settle}
      onKey={() => toggleKey(words, path, frame, value)}
    />
  );
}

/** A field of an operation in place: a number with its unit, or a colour. */
export function StackField({
  base,
  settings,
  frame,
  of,
  name,
}: {
  /** Where the operation stands. */
  base: Path;
  /** What it is set to at the frame. */
  settings: unknown;
  frame: number;
  of: FieldOf;
  name: string;
}) {
  const path = [...base, ...of.at];
  const value = at(settings, of.at);
  if (of.kind === 'color') {
    const words = `${of.label} of ${name}`;
    return (
      <ColorField
        compact
        label={words}
        value={value as Rgb}
        onChange={(v, drag) => put(words, path, v, frame, drag)}
        onSettled={settle}
      />
    );
  }
  return (
    <span className="whitespace-nowrap">
      <StackNumber path={path} value={value as number | null} frame={frame} of={of} name={name} />
      {of.unit && <span className="text-soft">{of.unit === '%' ? ' %' : ` ${of.unit}`}</span>}
    </span>
  );
}

/** A setting in a row of its own, with the word that keys it. */
export function FieldRow({
  label,
  path,
  value,
  frame,
  name,
  children,
}: {
  label: string;
  path: Path;
  value: unknown;
  frame: number;
  name: string;
  children: React.ReactNode;
}) {
  const keyed = useStack((s) => keyOf(s.stack && at(s.stack, path)));
  const isHere = keyed?.keys.some((k) => k.frame === frame) ?? false;
  return (
    <div className="flex min-h-[24px] items-center gap-2">
      <span className="flex-1 text-soft">{label}</span>
      {children}
      <button
        type="button"
        aria-pressed={isHere}
        aria-label={`${isHere ? 'no key' : 'key'} for ${label} of ${name} at frame ${frame}`}
        className={`w-14 text-right text-[11px] hover:text-ink ${keyed ? 'text-ink' : 'text-dim'}`}
        onClick={() => toggleKey(`${label} of ${name}`, path, frame, value)}
      >
        {isHere ? `key ${frame} ×` : keyed ? `key ${frame}` : 'key'}
      </button>
    </div>
  );
}
