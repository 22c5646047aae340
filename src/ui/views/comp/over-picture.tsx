'use client';

import { FocusRamp } from './focus-ramp';
import { ShapeHandles } from './shape-handles';

/** What of the open entry can be dragged in the picture. */
export function OverPicture({ aspect }: { aspect: number }) {
  return (
    <>
      <ShapeHandles aspect={aspect} />
      <FocusRamp />
    </>
  );
}
