import type { AskDenoised, Denoised } from '@/contract/denoised';
import type { LastDesk } from '@/contract/desk';
import { faultSchema } from '@/contract/fault';
import { type Movie, movieSchema, type NewMovie } from '@/contract/movie';
import { type Proof, proofSchema } from '@/contract/proof';
import {
  type Again,
  type EditRun,
  framesFrom,
  type NewRun,
  type Room,
  type Run,
  type RunLine,
  roomSchema,
  runLineSchema,
} from '@/contract/run';
import {
  type EditShot,
  type House,
  houseSchema,
  type RevisionLine,
  type ShotData,
  type ShotList,
  shotListSchema,
} from '@/contract/shot';
import {
  type EditTrial,
  type LogbookPage,
  logbookPageSchema,
  type NewTrial,
  type Trial,
  type TrialLine,
  trialLineSchema,
} from '@/contract/trial';
import { type EditMachine, type Workers, workersSchema } from '@/contract/worker';
import type { StackDocument } from '@/core/comp';
import type { Strengths } from '@/core/denoise';
import type { Moods } from '@/core/moods';
import type { Output, Outputs } from '@/core/outputs';
import type { Recipe } from '@/core/recipe';
import type { SceneDocument } from '@/core/scene';
import type { Noise } from '@/core/stats';

/** What of a draft may be saved. */
export interface DraftChange {
  recipe?: Recipe;
  scene?: SceneDocument;
  outputs?: Outputs;
  moods?: Moods;
  stack?: StackDocument;
}

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
    const e = faultSchema.safeParse(value).data?.error;
    throw new ApiError(
      response.status,
      e?.code ?? 'fault',
      e?.message ?? `the server answered ${response.status}`,
      e?.path ?? '',
      e?.limits,
    );
  }
  return value as T;
}

/** Milliseconds before a request that reached nobody is sent again, time after time. */
const AGAIN_MS = [700, 2000, 5000];

/** Sends again what reached nobody. Only for requests that do the same when they arrive twice. */
async function insist<T>(send: () => Promise<T>): Promise<T> {
  for (const ms of AGAIN_MS)
    try {
      return await send();
    } catch (error) {
      if (!(error instanceof ApiError) || (error.status !== 0 && error.status !== 503)) throw error;
      await new Promise((resolve) => setTimeout(resolve, ms));
    }
  return send();
}

/** Every request of the page. What it lists is checked by the contract. */
export const api = {
  shots: async (): Promise<ShotList> => shotListSchema.parse(await ask('/api/shots')),
  house: async (): Promise<House> => houseSchema.parse(await ask('/api/house')),
  editShot: (id: string, change: EditShot) =>
    ask<{ name: string }>(`/api/shots/${id}`, { method: 'PATCH', json: change }),
  shot: (id: string) => ask<ShotData>(`/api/shots/${id}`),
  saveDraft: (id: string, version: number, change: DraftChange & { by: string }) =>
    ask<{ version: number }>(`/api/shots/${id}/draft`, {
      method: 'PATCH',
      json: change,
      headers: { 'if-match': String(version) },
    }),
  setBaseline: (id: string, trial: string | null) =>
    ask(`/api/shots/${id}/baseline`, { method: 'PUT', json: { trial } }),
  addShot: (name: string, scene: SceneDocument) =>
    ask<{ id: string; name: string }>('/api/shots', { method: 'POST', json: { name, scene } }),
  /** Brings in a packed shot, under its name or one like it. */
  bringShot: (tar: Blob) => ask<{ id: string; name: string }>('/api/shots/package', { method: 'POST', body: tar }),
  recipes: () => ask<{ recipes: Recipe[] }>('/api/recipes'),
  keepRecipe: (recipe: Recipe) => ask<{ name: string }>('/api/recipes', { method: 'PUT', json: recipe }),
  dropRecipe: (name: string) => ask('/api/recipes', { method: 'DELETE', json: { name } }),
  ownOutputs: () => ask<{ outputs: Output[] }>('/api/outputs'),
  keepOutput: (output: Output) => ask<{ name: string }>('/api/outputs', { method: 'PUT', json: output }),
  dropOutput: (name: string) => ask('/api/outputs', { method: 'DELETE', json: { name } }),
  revisions: (id: string) => ask<{ revisions: RevisionLine[] }>(`/api/shots/${id}/revisions`),
  revision: (id: string) => ask<{ revision: { number: number; document: SceneDocument } }>(`/api/revisions/${id}`),
  putContent: (bytes: Uint8Array<ArrayBuffer>) =>
    ask<{ hash: string; bytes: number }>('/api/blobs', { method: 'PUT', body: bytes }),
  /** A page of a shot's logbook: trials numbered below `before`. */
  trials: async (shot: string, before: number | null, signal?: AbortSignal): Promise<LogbookPage> =>
    logbookPageSchema.parse(
      await ask(`/api/shots/${shot}/trials${before === null ? '' : `?before=${before}`}`, { signal }),
    ),
  /** A trial as the logbook lists it; null when it is not in it any more. */
  line: async (id: string): Promise<TrialLine | null> =>
    trialLineSchema.nullable().parse((await ask<{ trial: unknown }>(`/api/trials/${id}/line`)).trial),
  logTrial: async (trial: Partial<NewTrial> & Pick<NewTrial, 'shot' | 'camera' | 'recipe'>): Promise<TrialLine> => {
    const json = { ...trial, key: crypto.randomUUID() };
    const sent = await insist(() => ask<{ trial: unknown }>('/api/trials', { method: 'POST', json }));
    return trialLineSchema.parse(sent.trial);
  },
  /** What an output comes to as it would be written; `query` as for the file itself. */
  proof: async (id: string, query: string): Promise<Proof> =>
    proofSchema.parse((await ask<{ proof: unknown }>(`/api/trials/${id}/proof?${query}`)).proof),
  editTrial: (id: string, change: EditTrial) => ask(`/api/trials/${id}`, { method: 'PATCH', json: change }),
  goOnTrial: (id: string) => ask(`/api/trials/${id}/go-on`, { method: 'POST' }),
  lastDesk: () => ask<{ desk: LastDesk | null }>('/api/desk'),
  keepDesk: (desk: LastDesk) => ask('/api/desk', { method: 'PUT', json: desk }),
  stopTrial: (id: string) => ask(`/api/trials/${id}/stop`, { method: 'POST' }),
  leaveUntimed: (id: string) => ask(`/api/trials/${id}/untimed`, { method: 'POST' }),
  /** A trial whole, with its shares by object. */
  trial: (id: string) => ask<{ trial: Trial }>(`/api/trials/${id}`),
  denoised: (id: string) => ask<{ denoised: Denoised | null }>(`/api/trials/${id}/denoised`),
  denoise: (id: string, asked: Partial<AskDenoised>) =>
    ask(`/api/trials/${id}/denoised`, { method: 'POST', json: asked }),
  stopDenoising: (id: string) => ask(`/api/trials/${id}/denoised/stop`, { method: 'POST' }),
  runs: async (shot: string): Promise<RunLine[]> =>
    runLineSchema.array().parse((await ask<{ runs: unknown }>(`/api/shots/${shot}/runs`)).runs),
  /** A run with all its frames. */
  run: async (id: string): Promise<Run> => {
    const { run, rows } = await ask<{ run: Omit<Run, 'rows'>; rows: unknown[][] }>(`/api/runs/${id}`);
    return { ...run, rows: framesFrom(rows) };
  },
  room: async (shot: string, asked: Pick<NewRun, 'frames' | 'camera' | 'folder' | 'comp'>): Promise<Room> =>
    roomSchema.parse(
      (await ask<{ room: unknown }>(`/api/shots/${shot}/runs/room`, { method: 'POST', json: asked })).room,
    ),
  startRun: async (shot: string, asked: Partial<NewRun> & Pick<NewRun, 'frames' | 'camera'>): Promise<RunLine> => {
    const json = { ...asked, key: crypto.randomUUID() };
    const sent = await insist(() => ask<{ run: unknown }>(`/api/shots/${shot}/runs`, { method: 'POST', json }));
    return runLineSchema.parse(sent.run);
  },
  editRun: (id: string, change: EditRun) => ask(`/api/runs/${id}`, { method: 'PATCH', json: change }),
  againFrames: (id: string, asked: Again) =>
    ask<{ frames: number }>(`/api/runs/${id}/again`, { method: 'POST', json: asked }),
  placeAgain: (id: string, overwrites: boolean) =>
    ask(`/api/runs/${id}/place`, { method: 'POST', json: { overwrites } }),
  movies: async (run: string): Promise<Movie[]> =>
    movieSchema.array().parse((await ask<{ movies: unknown }>(`/api/runs/${run}/movies`)).movies),
  makeMovie: (run: string, asked: NewMovie) =>
    ask<{ id: string }>(`/api/runs/${run}/movies`, { method: 'POST', json: asked }),
  removeMovie: (id: string) => ask(`/api/movies/${id}`, { method: 'DELETE' }),
  workers: async (): Promise<Workers> => workersSchema.parse(await ask('/api/workers')),
  editMachine: (change: EditMachine) => ask('/api/workers', { method: 'PATCH', json: change }),
  setStrengths: (id: string, strengths: Strengths) =>
    ask<{ residual: Noise }>(`/api/trials/${id}/denoised`, { method: 'PATCH', json: strengths }),
};
