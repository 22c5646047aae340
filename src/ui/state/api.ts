import type { Balance } from '@/core/film';
import type { Recipe } from '@/core/recipe';
import type { FieldOwner, SceneDocument } from '@/core/scene';
import type { Prediction } from '@/render/proposal';
import type { LadderStep, Mood, RevisionLine, ShotData, Trial } from './types';

/** A refusal of the server, as it words it. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly path: string,
    readonly limits: unknown,
  ) {
    super(message);
  }
}

async function ask<T>(path: string, init?: RequestInit & { json?: unknown }): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      ...init,
      headers: { ...(init?.json === undefined ? {} : { 'content-type': 'application/json' }), ...init?.headers },
      body: init?.json === undefined ? init?.body : JSON.stringify(init.json),
    });
  } catch {
    throw new ApiError(0, 'away', 'the server cannot be reached; what is on the page is kept', '', null);
  }
  const value = await response.json().catch(() => null);
  if (!response.ok) {
    const e = value?.error ?? {};
    throw new ApiError(
      response.status,
      e.code ?? 'fault',
      e.message ?? `the server answered ${response.status}`,
      e.path ?? '',
      e.limits,
    );
  }
  return value as T;
}

export const api = {
  shots: () => ask<Record<'shots' | 'removed', { id: string; name: string }[]>>('/api/shots'),
  editShot: (id: string, change: { name?: string; removed?: boolean }) =>
    ask<{ name: string }>(`/api/shots/${id}`, { method: 'PATCH', json: change }),
  shot: (id: string) => ask<ShotData>(`/api/shots/${id}`),
  saveDraft: (id: string, version: number, change: { recipe?: Recipe; scene?: SceneDocument; by: string }) =>
    ask<{ version: number }>(`/api/shots/${id}/draft`, {
      method: 'PATCH',
      json: change,
      headers: { 'if-match': String(version) },
    }),
  setBaseline: (id: string, trial: string | null) =>
    ask(`/api/shots/${id}/baseline`, { method: 'PUT', json: { trial } }),
  addShot: (name: string, scene: SceneDocument) =>
    ask<{ id: string; name: string }>('/api/shots', { method: 'POST', json: { name, scene } }),
  recipes: () => ask<{ recipes: Recipe[] }>('/api/recipes'),
  keepRecipe: (recipe: Recipe) => ask<{ name: string }>('/api/recipes', { method: 'PUT', json: recipe }),
  dropRecipe: (name: string) => ask('/api/recipes', { method: 'DELETE', json: { name } }),
  revisions: (id: string) => ask<{ revisions: RevisionLine[] }>(`/api/shots/${id}/revisions`),
  revision: (id: string) => ask<{ revision: { number: number; document: SceneDocument } }>(`/api/revisions/${id}`),
  putContent: (bytes: Uint8Array<ArrayBuffer>) =>
    ask<{ hash: string; bytes: number }>('/api/blobs', { method: 'PUT', body: bytes }),
  logTrial: (trial: {
    shot: string;
    camera: string;
    frame: number | null;
    recipe: Recipe;
    parent: string | null;
    title?: string;
    predicted?: Prediction | null;
    /** Fields of the scene that are set for this trial alone. */
    fields?: { owner: FieldOwner; path: string; value: unknown }[];
    ladder?: LadderStep | null;
  }) => ask<{ trial: Trial }>('/api/trials', { method: 'POST', json: trial }),
  editTrial: (id: string, change: { title?: string; note?: string; starred?: boolean; removed?: boolean }) =>
    ask(`/api/trials/${id}`, { method: 'PATCH', json: change }),
  goOnTrial: (id: string) => ask(`/api/trials/${id}/go-on`, { method: 'POST' }),
  stopTrial: (id: string) => ask(`/api/trials/${id}/stop`, { method: 'POST' }),
  /** A trial whole, with its shares by object. */
  trial: (id: string) => ask<{ trial: Trial }>(`/api/trials/${id}`),
  layers: (id: string) => ask<{ layers: { name: string; bytes: number }[] }>(`/api/trials/${id}`),
  moods: (id: string) => ask<{ moods: Mood[] }>(`/api/trials/${id}/moods`),
  keepMood: (id: string, name: string, balance: Balance) =>
    ask<{ mood: Mood }>(`/api/trials/${id}/moods`, { method: 'PUT', json: { name, balance } }),
  removeMood: (id: string, name: string) => ask(`/api/trials/${id}/moods`, { method: 'DELETE', json: { name } }),
};
