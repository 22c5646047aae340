import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, type RenderResult, render } from '@testing-library/react';
import { Tooltip } from 'radix-ui';
import type { ReactNode } from 'react';
import { FilmClient, type WorkerEnd } from '@/render/page/client';
import type { ToFilm } from '@/render/page/protocol';
import type { FromFilm } from '@/render/page/told';
import { ClientContext } from './state/client';

class NoObserver {
  observe() {}
  unobserve() {}
  disconnect() {}
}

/** What every browser has and the simulated page has not. Nothing is fetched: requests wait for ever unless a test answers them. */
export function completePage(): void {
  Object.assign(globalThis, { ResizeObserver: NoObserver, fetch: () => new Promise(() => {}) });
  HTMLCanvasElement.prototype.getContext = (() => null) as never;
  Object.assign(Element.prototype, {
    scrollIntoView() {},
    hasPointerCapture: () => false,
    setPointerCapture() {},
    releasePointerCapture() {},
  });
}

/** A film worker that does what a test has it do. */
export class PlayedWorker {
  readonly sent: ToFilm[] = [];
  private readonly end: WorkerEnd = {
    postMessage: (message) => void this.sent.push(message),
    terminate: () => {},
    onmessage: null,
    onerror: null,
  };
  readonly client = new FilmClient(
    () => this.end,
    () => {},
  );

  says(message: FromFilm): void {
    act(() => this.end.onmessage?.({ data: message } as MessageEvent<FromFilm>));
  }

  /** The questions it was asked. */
  get asked() {
    return this.sent.filter((m) => m.type === 'ask');
  }
}

/** Shows something as the page would, with a film worker and a query library around it. */
export function shown(children: ReactNode, client: FilmClient = new PlayedWorker().client): RenderResult {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const around = ({ children: inside }: { children: ReactNode }) => (
    <QueryClientProvider client={queries}>
      <Tooltip.Provider>
        <ClientContext value={client}>{inside}</ClientContext>
      </Tooltip.Provider>
    </QueryClientProvider>
  );
  return render(children, { wrapper: around });
}

const TURNS = 10;
const sleep = (ms: number): Promise<void> => act(() => new Promise<void>((done) => setTimeout(done, ms)));

/** Lets time pass, and what has come due take its turns: on a busy machine all of it may be due at once, one thing by another. */
export async function passes(ms = 20): Promise<void> {
  await sleep(ms);
  for (let turn = 0; turn < TURNS; turn++) await sleep(0);
}
