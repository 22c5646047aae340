import { createContext, useContext } from 'react';
import type { FilmClient } from '@/render/page/client';

export const ClientContext = createContext<FilmClient | null>(null);

/** The page's end of the film worker: the same for as long as the page is open. */
export function useClient(): FilmClient {
  const client = useContext(ClientContext);
  if (!client) throw new Error('no film worker above this component');
  return client;
}
