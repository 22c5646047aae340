import { useDesk } from './desk-store';

/** What H does in a view: A as it was rendered, for as long as it is held. Views share the key, and each hears it: the open one alone acts. */
export const asRenderedIn = (view: string) => ({
  keys: 'h',
  shown: 'H',
  run: () => useDesk.getState().set({ asRendered: !useDesk.getState().asRendered }),
  held: (down: boolean) => {
    if (!down || useDesk.getState().view === view) useDesk.getState().set({ asRendered: down });
  },
});
