import { rmSync } from 'node:fs';
import { availableParallelism, hostname } from 'node:os';
import { basename, extname, join } from 'node:path';
import { layersNamed } from '@/core/cut';
import { layerNames, makeSpec } from '@/core/film';
import { displayOf } from '@/core/image';
import { canonicalJson, parseRecipe, type Recipe, RecipeError } from '@/core/recipe';
import {
  COMP,
  COMP_KINDS,
  type CompKind,
  filesOfRun,
  framesText,
  inOrder,
  leftovers,
  MANIFEST_NAME,
  type Manifest,
  type ManifestFile,
  ORDERS,
  type Order,
  type RunFile,
  runPictures,
  takenPictures,
} from '@/core/runs';
import type { Camera, Scene, SceneDocument } from '@/core/scene';
import { hashed, namesIn, writeWhole } from '@/node/folder';
import { sha256 } from '@/node/hash';
import { nodeInflate } from '@/node/zlib';
import { compFile, compFrame, type TakenFilm } from '@/render/node/comp-frame';
import { denoisedFrame, type Filtering, toDenoise } from '@/render/node/denoised-frame';
import type { FilmOrigin } from '@/render/node/film-exr';
import { frameFiles, openedFrame } from '@/render/node/frame-files';
import { BANDS, traceFrame } from '@/render/node/rendered-frame';
import { compileWasm, spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';
import { cameraNamed } from '@/render/pool/scenes';
import { Besides } from '@/render/views/besides';
import { type Arguments, one, parseArguments, print, UsageError, wholeNumber } from './args';
import type { Assets } from './assets';
import { type Ready, type Task, type Traced, Waiting, withOthers } from './beside';
import { framesOf } from './frames';
import { writeJob } from './job';
import { Lending } from './lending';
import { bandsOf } from './picture';
import { endPieces, pieceName, type There, thereAlready } from './pieces';
import { progressTeller } from './progress';
import { loadRecipe, loadScene } from './render';
import { loadPackage, type Warning } from './scenes';
import { loadOutputs } from './split';

const OPTIONS = {
  frames: 'value',
  outputs: 'value',
  comp: 'value',
  out: 'value',
  recipe: 'value',
  set: 'values',
  env: 'value',
  camera: 'value',
  size: 'value',
  seed: 'value',
  threads: 'value',
  order: 'value',
  name: 'value',
  json: 'value',
  job: 'value',
  missing: 'flag',
  piece: 'flag',
  overwrite: 'flag',
} as const;

/** Pools with a picture each: a run's pictures are rendered by turns. */
class Pools {
  private readonly pools = new Map<number, RenderPool>();
  private module: WebAssembly.Module | null = null;
  private filter: WebAssembly.Module | null = null;

  constructor(
    private readonly assets: Assets,
    private readonly threads: number,
  ) {}

  async of(picture: number, scene: Scene, recipe: Recipe, camera: Camera, frame: number): Promise<RenderPool> {
    this.module ??= await compileWasm(this.assets.kernel);
    const known = this.pools.get(picture);
    if (known) return known;
    const pool = new RenderPool(this.module, spawnNode(this.assets.thread), this.threads);
    this.pools.set(picture, pool);
    await pool.load(scene, recipe, camera, frame);
    return pool;
  }

  /** What denoises their frames. */
  async filtering(): Promise<Filtering> {
    this.filter ??= await compileWasm(this.assets.filter);
    return { module: this.filter, spawn: spawnNode(this.assets.thread), threads: this.threads };
  }

  close(): void {
    for (const pool of this.pools.values()) pool.close();
  }
}

/** Whether frames of a picture are joined with those beside them: their films must tell how things move. */
const isJoined = (recipe: Recipe, document: SceneDocument): boolean =>
  recipe.denoise.on && recipe.denoise.neighbours && layerNames(makeSpec(recipe, document)).includes('motion');

/** Films that are held at once: with a frame that is joined the one before and the one after it, with what the stack takes as many of each. */
const filmsHeld = (recipe: Recipe, document: SceneDocument, taken: number): number =>
  (isJoined(recipe, document) ? 3 : 1) * (1 + taken);

/** What the arguments ask to be delivered. */
async function planned(args: Arguments, name: string, warnings: Warning[]) {
  const packed = extname(name) === '.tar' ? await loadPackage(name) : null;
  const scene = await loadScene(name, args, warnings, packed?.scene);
  const { document } = scene;
  const camera = cameraNamed(scene, one(args, 'camera'));
  if (!camera) {
    const there = document.cameras.map((c) => c.name).join(', ');
    throw new UsageError(`--camera ${one(args, 'camera')}: the scene has ${there}`);
  }
  const { first, last } = document.frames;
  const frames = framesOf(one(args, 'frames') ?? `${first}-${last}`, document.frames);
  const natural = camera.size ?? { width: document.width, height: document.height };
  const recipe = await loadRecipe(args, natural, packed?.shot.recipe).catch((error) => {
    throw error instanceof RecipeError ? new UsageError(error.message) : error;
  });
  const outputsPath = one(args, 'outputs');
  const outputs = outputsPath === undefined && packed ? packed.shot.outputs : await loadOutputs(outputsPath!);
  const as = one(args, 'comp');
  if (as !== undefined && !COMP_KINDS.includes(as as CompKind))
    throw new UsageError(`--comp ${as}: must be ${COMP_KINDS.join(' or ')}`);
  if (as !== undefined && !packed) throw new UsageError('--comp: only a package of a shot (.tar) has its stack');
  const comp = as !== undefined && packed ? { stack: packed.shot.stack, as: as as CompKind } : null;
  const names = {
    shot: one(args, 'name') ?? packed?.shot.name ?? basename(name, extname(name)),
    recipe: recipe.name,
    camera: camera.name,
    frames: { first: frames[0], last: frames[frames.length - 1] },
    trial: 1,
    date: new Date(),
  };
  const of = { document, recipe, outputs, comp, camera: camera.name, frames, names };
  for (const { stops, words, code } of leftovers(of)) {
    if (stops) throw new UsageError(`${outputsPath ?? name}: ${words}`);
    warnings.push({ code, path: 'run', message: words });
  }
  const pictures = runPictures(of).map((p) => ({ ...p, recipe: parseRecipe(p.recipe) }));
  const taken = takenPictures(of);
  for (const p of pictures) bandsOf(p.recipe, document, {}, filmsHeld(p.recipe, document, taken.size));
  return { scene, camera, of, pictures, packed, taken };
}

type Planned = Awaited<ReturnType<typeof planned>>;

/** What a frame that was rendered keeps, denoised where its recipe says so. */
async function keptOf({ traced: { frame }, origin, before, after }: Ready, filtering: Filtering | null) {
  const opened = openedFrame(frame, origin);
  const beside = [
    ...(before ? [{ film: toDenoise(before.frame), isAfter: false }] : []),
    ...(after ? [{ film: toDenoise(after.frame), isAfter: true }] : []),
  ];
  const made = await denoisedFrame(frame, origin, filtering, beside);
  const read = (layers: readonly string[]) => layersNamed(opened, made, layers);
  return { opened, made, read, kept: layerNames(frame.spec) };
}

/** The files of a frame that was rendered: cut from what it keeps, and what the stack makes of it and of what it takes. */
async function* frameOf(
  { task: { files }, traced: { frame }, origin }: Ready,
  { opened, made, read }: Awaited<ReturnType<typeof keptOf>>,
  { of: { outputs, comp }, packed }: Pick<Planned, 'of' | 'packed'>,
  taken: ReadonlyMap<string, TakenFilm>,
): AsyncGenerator<{ file: RunFile; pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array> }> {
  const plain = files.filter((f) => f.output !== COMP);
  for await (const { file, stream } of frameFiles(opened, origin, outputs, plain, made))
    yield { file, pieces: stream.bytes };
  const last = files.find((f) => f.output === COMP);
  if (!last || !comp || !packed) return;
  const noFilm = async () => {
    throw new Error('films of trials do not go with a package');
  };
  const besides = new Besides({ film: noFilm }, async (hash) => packed.contentOf(hash), nodeInflate);
  const by = { stack: comp.stack, moods: packed.shot.moods, masks: outputs.masks };
  const shown = await compFrame(read, frame.spec, origin, by, besides, new Map(), taken);
  yield { file: last, pieces: [await compFile(shown, comp.as, origin, opened.parts[0])] };
}

/** `lantern run`: renders frames of a shot and delivers the files of its outputs into a folder. Returns the exit code. */
export async function deliver(argv: string[], assets: Assets): Promise<number> {
  const args = parseArguments(argv, OPTIONS);
  if (args.positional.length !== 1) throw new UsageError('run needs one shot or file');
  const dir = one(args, 'out');
  const isPacked = extname(args.positional[0]) === '.tar';
  if ((one(args, 'outputs') === undefined && !isPacked) || dir === undefined)
    throw new UsageError('run needs --outputs file.json (a package has its own) and --out folder');
  const order = one(args, 'order') ?? 'ends';
  if (!ORDERS.includes(order as Order)) throw new UsageError(`--order ${order}: must be ${ORDERS.join(' or ')}`);
  const threads = wholeNumber(args, 'threads', 1, 256) ?? availableParallelism();
  const warnings: Warning[] = [];
  const { scene, camera, of, pictures, packed, taken } = await planned(args, args.positional[0], warnings);
  const { document, recipe, outputs, frames, names } = of;
  const sceneHash = sha256(canonicalJson(document), scene.geometry);
  const manifest: Manifest = {
    schema: 1,
    program: `lantern ${assets.version}`,
    shot: names.shot,
    run: null,
    frames: framesText(frames),
    camera: camera.name,
    scene: sceneHash,
    recipe,
    outputs,
    complete: false,
    rendered: [],
    files: [],
  };
  const filesAt = filesOfRun(of, names);
  const plan = new Map(frames.map((f) => [f, filesAt(f).files]));
  const all = [...plan.values()].flat(2).map((f) => f.name);
  const joins = (picture: number) => isJoined(pictures[picture].recipe, document);
  const [isMissing, isPiece] = ['missing', 'piece'].map((flag) => args.options.has(flag));
  const job = one(args, 'job');
  if ((isPiece || job !== undefined) && pictures.some((_, p) => joins(p)))
    throw new UsageError(
      'a task a frame cannot join frames that wait for each other: add --set denoise.neighbours=false',
    );
  if (job !== undefined) {
    await writeJob(job, args, frames, names.shot);
    print(one(args, 'json') === '-', { job, tasks: frames.length }, `${job}: ${frames.length} frames, a task each\n`);
    return 0;
  }
  const manifestName = isPiece ? pieceName(frames) : MANIFEST_NAME;
  // A piece looks at its own files alone, and tells of them.
  const isLookedAt = ({ name }: ManifestFile) => !isPiece || all.includes(name);
  const found: There = isMissing ? await thereAlready(dir, manifest, isLookedAt) : { files: new Map(), pieces: [] };
  const there = found.files;
  if (isPiece) manifest.rendered = manifest.rendered.filter((r) => frames.includes(r.frame));
  if (!isMissing && !args.options.has('overwrite')) {
    const [taken] = await namesIn(dir, [...all, manifestName]);
    if (taken !== undefined)
      throw new UsageError(
        `${join(dir, taken)}: it is there already; --missing renders what is not, --overwrite all anew`,
      );
  }
  for (const w of warnings) process.stderr.write(`warning: ${w.path}: ${w.message}\n`);
  manifest.files.push(...there.values());
  const todo = inOrder(frames, order as Order).flatMap((frame) =>
    plan
      .get(frame)!
      .flatMap((files, picture) => (files.every((f) => there.has(f.name)) ? [] : [{ frame, picture, files }])),
  );
  const tasks = withOthers(todo, frames, joins, [...new Set(taken.values())]);
  const lending = new Lending(todo, taken);
  const write = async (complete: boolean) => {
    manifest.complete = complete;
    const sorted = {
      ...manifest,
      rendered: [...manifest.rendered].sort((a, b) => a.frame - b.frame),
      files: [...manifest.files].sort((a, b) => (a.name < b.name ? -1 : 1)),
    };
    await writeWhole(dir, manifestName, [Buffer.from(`${JSON.stringify(sorted, null, 1)}\n`)]);
  };
  const abort = new AbortController();
  const onSignal = () => abort.abort();
  process.once('SIGINT', onSignal);
  const pools = new Pools(assets, threads);
  const bandsDir = join(BANDS, `run-${process.pid}`);
  const teller = progressTeller(process.stderr, process.stderr.isTTY === true);
  const started = performance.now();
  let traced = 0;
  let done = 0;
  const trace = async ({ frame, picture, files }: Task): Promise<Traced> => {
    const { recipe: own, variant } = pictures[picture];
    const pool = await pools.of(picture, scene, own, camera, frame);
    const display = displayOf(camera.exposure, document.look);
    const made = await traceFrame(
      {
        ...{ recipe: own, document, display },
        folder: join(bandsDir, `${picture}-${frame}`),
        films: filmsHeld(own, document, taken.size),
      },
      async (part, { band, bands }) => {
        const { film, finished, traceMs } = await pool.render(scene, part, camera, {
          signal: abort.signal,
          frame,
          onProgress: (p) =>
            teller({
              fraction: (traced + (band + p.fraction) / bands) / tasks.length,
              elapsedMs: performance.now() - started,
            }),
        });
        return { film, finished, spent: { traceMs, calibratedMs: traceMs } };
      },
    );
    traced++;
    const origin: FilmOrigin = {
      ...{ scene, sceneHash, camera, frame, recipe: own, recipeHash: sha256(canonicalJson(own)), variant },
      noisePercent: made.finished ? (made.figures().noise?.rms ?? null) : null,
      ...{ traceSeconds: made.spent.traceMs / 1000, version: assets.version },
    };
    return { task: { frame, picture, files }, traced: made, origin };
  };
  const finish = async (ready: Ready): Promise<void> => {
    const { task, origin, over } = ready;
    const { frame } = task;
    const { recipe: own, variant } = pictures[task.picture];
    if (!lending.isReady(ready)) return;
    const isLent = lending.isLent(task);
    const kept =
      task.files.length > 0 || isLent ? await keptOf(ready, own.denoise.on ? await pools.filtering() : null) : null;
    if (task.files.length > 0 && kept) {
      for await (const { file, pieces } of frameOf(ready, kept, { of, packed }, lending.at(frame))) {
        const told = hashed(pieces);
        await writeWhole(dir, file.name, told.pieces);
        const { bytes, sha256: hash } = told.found();
        const { name, output, layers } = file;
        manifest.files = [
          ...manifest.files.filter((f) => f.name !== name),
          { name, output, frame, layers, bytes, sha256: hash },
        ];
      }
      const key = canonicalJson(variant);
      manifest.rendered = manifest.rendered.filter((r) => r.frame !== frame || canonicalJson(r.variant) !== key);
      manifest.rendered.push({
        ...{ frame, variant, noise: origin.noisePercent, seconds: origin.traceSeconds, machine: hostname() },
        rendered: new Date().toISOString(),
      });
      done++;
      await write(done === todo.length);
    }
    const waited = isLent && kept ? lending.lend(ready, kept) : null;
    lending.end(over, task);
    if (waited) await finish(waited);
  };
  try {
    const lines = pictures.map((_, picture) => new Waiting(tasks, picture, joins(picture)));
    for (const task of tasks) {
      const own = await trace(task);
      if (!own.traced.finished) break;
      for (const ready of lines[task.picture].add(own)) await finish(ready);
    }
  } finally {
    process.removeListener('SIGINT', onSignal);
    pools.close();
    rmSync(bandsDir, { recursive: true, force: true });
  }
  if (process.stderr.isTTY) process.stderr.write('\n');
  if (todo.length === 0) await write(true);
  const isDone = done === todo.length;
  if (isDone && !isPiece) await endPieces(dir, found.pieces);
  const bytes = manifest.files.reduce((n, f) => n + f.bytes, 0);
  print(
    one(args, 'json') === '-',
    { folder: dir, complete: isDone, rendered: done, files: manifest.files.length, bytes, warnings },
    `${dir}: ${manifest.files.length} files, ${(bytes / 1e6).toFixed(1)} MB; ${done} pictures rendered${isDone ? '' : ', stopped'}\n`,
  );
  return isDone ? 0 : 3;
}
