import type { FromFilm } from '@/render/page/told';

/** What a page draws, as its film worker tells it. */
export type Drawn = Extract<FromFilm, { type: 'picture' | 'absent' }>;
/** What goes between a page and the windows that hold its picture alone; `looked` is how the page looks at it. */
type Mirrored<Looked> = { type: 'wanted' } | { type: 'drawn'; drawn: Drawn } | { type: 'looked'; looked: Looked };

/** A window that has not asked for so long is taken to be closed. */
const SILENT_MS = 8000;
const ASK_MS = 2500;

/** What of a broadcast channel is used. */
export interface Channel {
  postMessage: (message: unknown) => void;
  close: () => void;
  onmessage: ((event: MessageEvent) => void) | null;
}

const openChannel = (page: string): Channel => new BroadcastChannel(`lantern-picture ${page}`);

const PAGE = 'lantern-page';
/** What a page is called by the windows that follow it; the same after a reload. */
export function pageName(storage: Pick<Storage, 'getItem' | 'setItem'> = sessionStorage): string {
  const known = storage.getItem(PAGE);
  if (known) return known;
  const name = Math.random().toString(36).slice(2);
  storage.setItem(PAGE, name);
  return name;
}

/** The page's side: sends what it draws to windows that ask for it, and nothing while none does. */
export class Mirror<Looked> {
  private readonly drawn = new Map<string, Drawn>();
  private looked: Looked | null = null;
  private askedAt = Number.NEGATIVE_INFINITY;

  constructor(
    private readonly channel: Channel = openChannel(pageName()),
    private readonly now: () => number = () => performance.now(),
  ) {
    channel.onmessage = ({ data }: MessageEvent<Mirrored<Looked>>) => {
      if (data.type !== 'wanted') return;
      const anew = !this.isWatched;
      this.askedAt = this.now();
      if (!anew) return;
      if (this.looked) this.post({ type: 'looked', looked: this.looked });
      for (const drawn of this.drawn.values()) this.post({ type: 'drawn', drawn });
    };
  }

  private get isWatched(): boolean {
    return this.now() - this.askedAt < SILENT_MS;
  }

  private post(message: Mirrored<Looked>): void {
    this.channel.postMessage(message);
  }

  look(looked: Looked): void {
    this.looked = looked;
    if (this.isWatched) this.post({ type: 'looked', looked });
  }

  draw(drawn: Drawn): void {
    this.drawn.set(drawn.slot, drawn);
    if (this.isWatched) this.post({ type: 'drawn', drawn });
  }

  close(): void {
    this.channel.close();
  }
}

/** The window's side: asks for pictures as long as it is open. Returns what ends that. */
export function watchMirror<Looked>(
  hear: { drawn: (drawn: Drawn) => void; looked: (looked: Looked) => void },
  channel: Channel = openChannel(new URLSearchParams(window.location.search).get('of') ?? ''),
): () => void {
  channel.onmessage = ({ data }: MessageEvent<Mirrored<Looked>>) => {
    if (data.type === 'drawn') hear.drawn(data.drawn);
    else if (data.type === 'looked') hear.looked(data.looked);
  };
  const ask = () => channel.postMessage({ type: 'wanted' } satisfies Mirrored<Looked>);
  ask();
  const timer = setInterval(ask, ASK_MS);
  return () => {
    clearInterval(timer);
    channel.close();
  };
}
