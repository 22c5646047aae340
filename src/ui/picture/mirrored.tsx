'use client';

import { useEffect, useMemo, useRef, useState } from 'react';
import type { FilmClient } from '@/render/page/client';
import { useSize } from '../parts/use-size';
import { type Drawn, Mirror, watchMirror } from '../state/mirror';
import { UPRIGHT } from '../state/viewport-store';
import { Badges } from './badges';
import { type Look, Panes } from './panes';
import { type Canvases, type Teller, usePictures } from './use-pictures';

/** How a page looks at its picture, as far as a window that holds it alone follows. */
export interface Looked {
  look: Look;
  labelA: string;
  labelB: string | null;
  surround: string;
}

/** Lets windows of their own follow what the page shows. */
export function useMirrored(client: FilmClient, looked: Looked): void {
  const mirror = useRef<Mirror<Looked> | null>(null);
  useEffect(() => {
    const made = new Mirror<Looked>();
    mirror.current = made;
    const off = [client.on('picture', (p) => made.draw(p)), client.on('absent', (p) => made.draw(p))];
    return () => {
      for (const end of off) end();
      made.close();
    };
  }, [client]);
  const text = JSON.stringify(looked);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another client has another mirror, which has heard nothing yet
  useEffect(() => mirror.current?.look(JSON.parse(text)), [text, client]);
}

/** Before the page has told how it looks. */
const UNKNOWN: Look = {
  frame: { width: 1280, height: 720 },
  zoom: null,
  pan: { x: 0, y: 0 },
  parting: UPRIGHT,
  compare: 'a',
  bTurn: false,
};

/** Tells `usePictures` what another page draws. */
class MirrorTeller implements Teller {
  private readonly hearers = new Map<Drawn['type'], Set<(drawn: never) => void>>();

  on<T extends Drawn['type']>(type: T, hear: (drawn: Extract<Drawn, { type: T }>) => void): () => void {
    const own = this.hearers.get(type) ?? new Set();
    this.hearers.set(type, own);
    own.add(hear as (drawn: never) => void);
    return () => own.delete(hear as (drawn: never) => void);
  }

  tell(drawn: Drawn): void {
    for (const hear of this.hearers.get(drawn.type) ?? []) (hear as (d: Drawn) => void)(drawn);
  }
}

/** The picture of a page alone, for a second screen: it follows A, B, zoom and what parts them. */
export function MirroredPicture() {
  const [teller] = useState(() => new MirrorTeller());
  const [looked, setLooked] = useState<Looked | null>(null);
  const [root, setRoot] = useState<HTMLElement | null>(null);
  const size = useSize(root);
  const A = useRef<HTMLCanvasElement>(null);
  const B = useRef<HTMLCanvasElement>(null);
  const under = useRef<HTMLCanvasElement>(null);
  const canvases = useMemo<Canvases>(() => ({ A, B, under }), []);
  const slots = usePictures(teller, canvases);
  useEffect(() => watchMirror<Looked>({ drawn: (d) => teller.tell(d), looked: setLooked }), [teller]);
  return (
    <main
      ref={setRoot}
      className="relative h-dvh overflow-hidden select-none"
      style={{ background: looked?.surround }}
      aria-label="picture"
    >
      <Panes canvases={canvases} slots={slots} look={looked?.look ?? UNKNOWN} size={size} />
      {looked ? (
        <Badges
          absent={slots.A.absent}
          labelA={looked.labelA}
          labelB={looked.labelB}
          turn={looked.look.compare === 'turns' ? (looked.look.bTurn ? 'B' : 'A') : null}
        />
      ) : (
        <p className="absolute inset-x-0 top-1/2 text-center text-soft" role="status">
          Open a shot in another window of this browser: its picture is shown here.
        </p>
      )}
    </main>
  );
}
