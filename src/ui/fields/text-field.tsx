'use client';

import type { KeyboardEvent } from 'react';

/** How a field to type into looks. */
export const LOOK =
  'rounded-sm border border-line bg-pit px-2 py-1 text-ink outline-none placeholder:text-dim focus:border-soft';

/** A line of text; several with `rows`. */
export function TextField({
  label,
  value,
  onChange,
  most,
  rows,
  placeholder,
  onKeyDown,
  className = 'w-full',
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  most?: number;
  rows?: number;
  placeholder?: string;
  onKeyDown?: (event: KeyboardEvent<HTMLElement>) => void;
  className?: string;
}) {
  const shared = { 'aria-label': label, value, maxLength: most, placeholder, onKeyDown };
  return rows === undefined ? (
    <input {...shared} className={`${LOOK} ${className}`} onChange={(e) => onChange(e.target.value)} />
  ) : (
    <textarea {...shared} rows={rows} className={`${LOOK} ${className}`} onChange={(e) => onChange(e.target.value)} />
  );
}
