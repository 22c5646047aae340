import type { ReactNode } from 'react';
import type { Placement } from '@/render/views/place';
import type { Compare } from '../state/desk-store';
import type { Wipe } from '../state/viewport-store';
import type { Canvases, SlotState } from './use-pictures';
import { clipOfB } from './wipe-line';

const MARGIN = 18;

/** How A and B are looked at: zoom in screen pixels a frame pixel (null fits), what parts them. */
export interface Look {
  frame: { width: number; height: number };
  zoom: number | null;
  pan: { x: number; y: number };
  parting: Wipe;
  compare: Compare;
  /** By turns: whether it is B's. */
  bTurn: boolean;
}

/** Where the frame lies in a picture of so many screen pixels; in each of both panes when A and B stand beside each other. */
export function layOut(size: { width: number; height: number }, { frame, zoom, pan, compare }: Look) {
  const paneWidth = compare === 'beside' ? size.width / 2 : size.width;
  const fit = Math.min((paneWidth - MARGIN * 2) / frame.width, (size.height - MARGIN * 2) / frame.height);
  const scale = zoom ?? Math.max(0.02, fit);
  const [width, height] = [frame.width * scale, frame.height * scale];
  const left = (paneWidth - width) / 2 + pan.x;
  const top = (size.height - height) / 2 + pan.y;
  return { paneWidth, scale, box: { left, top, width, height } };
}

/** Box of a slot within the frame, in percent. */
function boxOf(p: Placement) {
  return {
    left: `${(p.x / p.width) * 100}%`,
    top: `${(p.y / p.height) * 100}%`,
    width: `${(p.w / p.width) * 100}%`,
    height: `${(p.h / p.height) * 100}%`,
  };
}

/** The canvases of A and B in their places. */
export function Panes({
  canvases,
  slots,
  look,
  size,
  children,
}: {
  canvases: Canvases;
  slots: { A: SlotState; B: SlotState };
  look: Look;
  size: { width: number; height: number };
  /** Over B when it stands beside A. */
  children?: ReactNode;
}) {
  const { paneWidth, box } = layOut(size, look);
  const beside = look.compare === 'beside';
  const film = slots.A.place;
  const pixelated = film ? box.width / film.width >= 2 : false;
  const style = { imageRendering: pixelated ? ('pixelated' as const) : ('auto' as const) };
  return (
    <>
      <div className="absolute inset-y-0 left-0 overflow-hidden" style={{ width: paneWidth }}>
        <div className="absolute" style={box}>
          <canvas
            ref={canvases.under}
            className={`absolute inset-0 h-full w-full ${film && film.w < film.width ? 'opacity-45' : 'opacity-0'}`}
            style={style}
          />
          <canvas
            ref={canvases.A}
            data-testid="canvas-a"
            className="absolute"
            style={{ ...style, ...(film ? boxOf(film) : {}) }}
          />
        </div>
      </div>
      <div
        className={`pointer-events-none absolute inset-y-0 right-0 overflow-hidden ${beside ? 'border-l border-line' : ''}`}
        style={{ width: paneWidth }}
      >
        <div
          className="absolute"
          style={{ ...box, clipPath: clipOfB(look.compare, look.bTurn, look.parting, box.width, box.height) }}
        >
          <canvas
            ref={canvases.B}
            data-testid="canvas-b"
            className="absolute"
            style={{ ...style, ...(slots.B.place ? boxOf(slots.B.place) : {}) }}
          />
          {beside && children}
        </div>
      </div>
    </>
  );
}
