/** Figures as the interface writes them. */
export function percent(v: number | null | undefined): string {
  if (v === null || v === undefined || !Number.isFinite(v)) return '–';
  return `${v < 10 ? v.toFixed(2) : v.toFixed(1)} %`;
}

export function share(v: number | null | undefined): string {
  if (v === null || v === undefined || !Number.isFinite(v)) return '–';
  const p = v * 100;
  return Math.abs(p) < 0.5 && p !== 0 ? '<1%' : `${Math.round(p)}%`;
}

/** 0:17, 1:48, 1:02:03; tenths below ten seconds, milliseconds below one. */
export function clock(seconds: number | null | undefined): string {
  if (seconds === null || seconds === undefined || !Number.isFinite(seconds)) return '–';
  if (seconds > 0 && seconds < 0.95) return `${Math.round(seconds * 1000)} ms`;
  if (seconds < 10) return `${seconds.toFixed(1)} s`;
  const s = Math.round(seconds);
  const pad = (n: number) => String(n).padStart(2, '0');
  return s < 3600
    ? `${Math.floor(s / 60)}:${pad(s % 60)}`
    : `${Math.floor(s / 3600)}:${pad(Math.floor(s / 60) % 60)}:${pad(s % 60)}`;
}

export function count(n: number | null | undefined): string {
  if (n === null || n === undefined || !Number.isFinite(n)) return '–';
  if (n < 1000) return n.toFixed(n < 10 && !Number.isInteger(n) ? 1 : 0);
  if (n < 1e6) return `${(n / 1e3).toFixed(n < 1e5 ? 1 : 0)} k`;
  return n < 1e9 ? `${(n / 1e6).toFixed(n < 1e8 ? 1 : 0)} M` : `${(n / 1e9).toFixed(1)} G`;
}

/** "1 light", "1.2 k lights": a number of things with their word. */
export const counted = (n: number, thing: string) => `${count(n)} ${thing}${n === 1 ? '' : 's'}`;

/** How a packing of OpenEXR is written out. */
export const packingWords = (packing: string): string => (packing === 'none' ? packing : packing.toUpperCase());

export function bytes(n: number): string {
  return n < 1e6 ? `${(n / 1e3).toFixed(0)} kB` : n < 1e9 ? `${(n / 1e6).toFixed(0)} MB` : `${(n / 1e9).toFixed(1)} GB`;
}

/** A scene-linear value: three digits that tell, more in the dark. */
export function linear(v: number): string {
  if (!Number.isFinite(v)) return v > 0 ? '∞' : '–';
  const a = Math.abs(v);
  if (a === 0) return '0';
  return a >= 100 ? v.toFixed(1) : a >= 1 ? v.toFixed(2) : a >= 0.1 ? v.toFixed(3) : v.toFixed(4);
}

export const two = (n: number) => String(n).padStart(2, '0');

/** A layer's or group's name in words: `night_sky` is "night sky". */
export const words = (name: string) => name.replaceAll('_', ' ').replaceAll('.', ' · ');
