import { escaped } from './escape';

/** What is known of a frame, or of a step of a ladder; null where it is not there. */
export interface Bar {
  /** As it is called, which stands under the first and the last. */
  name: string;
  noise: number | null;
  seconds: number | null;
  step: number | null;
}

const [WIDTH, HEIGHT, LEFT] = [1032, 54, 118];
const LANES = [
  { of: 'noise', name: 'noise', unit: '%', digits: 2 },
  { of: 'seconds', name: 'time', unit: 's', digits: 1 },
  { of: 'step', name: 'step', unit: '%', digits: 2 },
] as const;

/** Noise, time and step of everything in its order as bars, a lane each from nothing to the most there is. `each`: what every bar is, in a word. */
export function barsChart(bars: readonly Bar[], each: string): string {
  const across = (WIDTH - LEFT) / Math.max(1, bars.length);
  const lanes = LANES.filter(({ of }) => bars.some((b) => b[of] !== null));
  const lane = ({ of, name, unit, digits }: (typeof LANES)[number], k: number): string => {
    const values = bars.flatMap((b) => b[of] ?? []);
    const most = Math.max(...values);
    const y = k * (HEIGHT + 10);
    const rects = bars.flatMap((b, i) => {
      const v = b[of];
      if (v === null) return [];
      const tall = most > 0 ? (v / most) * HEIGHT : 0;
      return `<rect x="${(LEFT + i * across).toFixed(2)}" y="${(y + HEIGHT - tall).toFixed(2)}" width="${Math.max(0.5, across - (across > 3 ? 1 : 0)).toFixed(2)}" height="${tall.toFixed(2)}" fill="#6e6e6e"><title>${escaped(`${each} ${b.name}: ${v.toFixed(digits)} ${unit}`)}</title></rect>`;
    });
    const span = `${Math.min(...values).toFixed(digits)} – ${most.toFixed(digits)} ${unit}`;
    return `<text x="0" y="${y + 14}" font-size="12">${name}</text><text x="0" y="${y + 30}" font-size="11" fill="#5a5a5a">${span}</text><line x1="${LEFT}" x2="${WIDTH}" y1="${y + HEIGHT}" y2="${y + HEIGHT}" stroke="#c8c8c8"/>${rects.join('')}`;
  };
  const tall = lanes.length * (HEIGHT + 10) + 14;
  const [first, last] = [bars[0], bars[bars.length - 1]].map((b) => escaped(b?.name ?? ''));
  return `<svg viewBox="0 0 ${WIDTH} ${tall}" width="${WIDTH}" role="img" aria-label="${lanes.map((l) => l.name).join(', ')} of every ${escaped(each)}">${lanes.map(lane).join('')}<text x="${LEFT}" y="${tall - 2}" font-size="11" fill="#5a5a5a">${first}</text><text x="${WIDTH}" y="${tall - 2}" font-size="11" fill="#5a5a5a" text-anchor="end">${last}</text></svg>`;
}
