import { type Look, whiteGains } from '../image';
import type { Operation } from './stack';

/** A look that does nothing but cut what is beyond white. */
export const CUT_ALONE: Look = { whiteKelvin: null, shoulder: 1, contrast: 1, curve: [] };

/** Names and settings of operations, as a stack's document has them. */
interface Graded {
  name: string;
  operation: { does: Operation['does'] } & Record<string, unknown>;
}

const MIDDLE_GREY = 0.18;

/**
 * The operations that do what a look does, one after the other, where the display does no more than cut what is beyond white (`CUT_ALONE`), in a stack that works in Rec.709.
 */
export function gradeOfLook(look: Look): Graded[] {
  const out: Graded[] = [];
  if (look.whiteKelvin !== null)
    out.push({ name: `white of ${look.whiteKelvin} K`, operation: { does: 'exposure', tint: whiteGains(look) } });
  if (look.contrast !== 1)
    out.push({ name: '', operation: { does: 'contrast', amount: look.contrast, pivot: MIDDLE_GREY } });
  // What is cut at 1 anyway needs no shoulder.
  if (look.shoulder < 1) out.push({ name: '', operation: { does: 'shoulder', from: look.shoulder } });
  if (look.curve.length > 0) out.push({ name: '', operation: { does: 'curves', all: look.curve } });
  return out;
}
