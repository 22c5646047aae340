import { MOST_STOPS } from './schema';

const NUMBER = '([0-9]+(?:[.,][0-9]*)?|[.,][0-9]+)';
const STOPS = new RegExp(`^([+−-]?)\\s*${NUMBER}$`);
const FACTOR = new RegExp(`^[x×*]\\s*${NUMBER}$`);
const PERCENT = new RegExp(`^${NUMBER}\\s*%$`);

/** A gain as somebody writes it, in stops; `fault` says why it is none. `+1`, `x2` and `200 %` are the same. */
export function parseGain(text: string): { stops: number } | { fault: string } {
  const own = text.trim();
  const numeral = (s: string) => Number(s.replace(',', '.'));
  const stops = STOPS.exec(own);
  const factor = FACTOR.exec(own);
  const percent = PERCENT.exec(own);
  if (!stops && !factor && !percent) return { fault: 'stops as +1, a factor as x2, or percent as 200 %' };
  const size = stops ? numeral(stops[2]) : factor ? numeral(factor[1]) : numeral(percent![1]) / 100;
  if (!stops && size === 0) return { fault: 'no light at all: switch the group off' };
  const value = stops ? (stops[1] === '' || stops[1] === '+' ? size : -size) : Math.log2(size);
  if (Math.abs(value) > MOST_STOPS) return { fault: `between −${MOST_STOPS} and +${MOST_STOPS} stops` };
  return { stops: value === 0 ? 0 : value };
}

/** A gain in stops with its sign, as short as two digits allow: `+1`, `−0.35`. */
export function stopsText(stops: number): string {
  const rounded = Math.round(stops * 100) / 100;
  if (rounded === 0) return '0';
  return `${rounded > 0 ? '+' : '−'}${Math.abs(rounded)}`;
}
