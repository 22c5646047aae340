'use client';

import { useQuery } from '@tanstack/react-query';
import { type ReactNode, useState } from 'react';
import {
  type Checked,
  COMP,
  COMP_KINDS,
  type CompKind,
  filesBytes,
  filesOfFrame,
  filmsBytes,
  ORDERS,
  runPictures,
} from '@/core/runs';
import { bytes, counted } from '@/core/words';
import { Choice } from '../../fields/choice';
import { TextField } from '../../fields/text-field';
import { Plain, Primary, Stat, Tip, Word } from '../../parts/controls';
import { ApiError, api } from '../../state/api';
import { useDesk } from '../../state/desk-store';
import { saveDraftNow } from '../../state/draft';
import { choiceOf, useNewRun } from '../../state/new-run-store';
import { useRecipe } from '../../state/recipe-store';
import { useCamera, useDocument, useFrame } from '../../state/scene-now';
import { useShot } from '../../state/shot-store';
import { useStack } from '../../state/stack-store';
import { tell } from '../../state/tell';
import { CheckList } from './check-list';
import { useChecked, useFrames, useLeftovers } from './checked';
import { Outlook } from './outlook';
import { recipeWords } from './recipe-words';
import { WantedField } from './wanted';

const ORDER_WORDS = { ends: 'first, middle and last first', rising: 'as they come' } as const;

const COMP_WORDS: Record<CompKind, string> = { exr: 'OpenEXR', png: 'PNG', tiff: 'TIFF' };

/** A run that is put together: what it delivers, where, and what would be delivered by mistake. */
export function NewRun() {
  const shot = useShot((s) => s.id);
  const choice = useNewRun((s) => choiceOf(s, shot));
  const { frames, text, fault } = useFrames();
  const hasStack = useStack((s) => ((s.stack?.entries as unknown[] | undefined)?.length ?? 0) > 0);
  const comp = hasStack ? choice.comp : null;
  const checked = useChecked(frames, comp);
  const findings = useLeftovers(checked);
  const document = useDocument();
  const camera = useCamera();
  const looked = useFrame();
  const recipe = useRecipe((s) => s.recipe)!;
  const [busy, setBusy] = useState(false);
  const set = (change: Partial<typeof choice>) => useNewRun.getState().set(shot, change);
  const asked = { frames: text, camera: camera.name, folder: choice.folder, comp };
  const isReady = fault === null && frames.length > 0;
  const room = useQuery({
    queryKey: ['room', shot, asked, checked?.names.trial, checked?.outputs, recipe.name],
    queryFn: () => api.room(shot, asked),
    enabled: isReady,
    retry: false,
    placeholderData: (before) => before,
  });
  const refused = room.error instanceof ApiError ? room.error.message : null;
  const perFrame = checked ? filesOfFrame(checked, checked.names, frames[0]).files.flat().length : 0;
  const size = checked ? filesBytes(checked, checked.names, frames[0]) * frames.length : 0;
  const films = checked ? filmsBytes(checked, frames.length, choice.keepsFilms) : 0;
  const kept = checked ? filmsBytes(checked, frames.length, true) : 0;
  const stops =
    !isReady ||
    findings.some((f) => f.stops) ||
    room.data?.fault !== null ||
    room.data.missing.length > 0 ||
    films > room.data.storeBytes ||
    (room.data.taken.length > 0 && !choice.overwrites);
  const start = async () => {
    setBusy(true);
    try {
      await saveDraftNow(shot);
      const { title, folder, order, keepsFilms, overwrites, wantedAt = null } = choice;
      const run = await api.startRun(shot, { ...asked, title, folder, order, keepsFilms, overwrites, wantedAt });
      useDesk.getState().set({ run: run.id, face: 'frames' });
      set({ overwrites: false, title: '', wantedAt: null });
    } catch (error) {
      tell(error);
    } finally {
      setBusy(false);
    }
  };
  const prove = async () => {
    setBusy(true);
    try {
      await saveDraftNow(shot);
      const frame = frames.includes(looked) ? looked : frames[0];
      const own = { frames: String(frame), camera: camera.name, folder: '', comp };
      const run = await api.startRun(shot, { ...own, title: `proof of frame ${frame}`, proof: true });
      useDesk.getState().set({ run: run.id, face: 'sheet' });
    } catch (error) {
      tell(error);
    } finally {
      setBusy(false);
    }
  };
  const { cameraMin, cameraMax, stopNoise } = recipe.sampling;
  return (
    <>
      <div className="flex border-b border-line">
        <Stat
          title="Frames"
          value={isReady ? frames.length : '–'}
          tip="Frames that are rendered, each in every picture that an output is of."
        />
        <Stat
          title="Files"
          value={<span data-testid="file-count">{perFrame * frames.length}</span>}
          beside={perFrame > 1 ? `${perFrame} a frame` : undefined}
          tip="Files that are written, of all outputs."
        />
        <Stat
          title="At most"
          value={bytes(size)}
          tip="Bytes of all files before they are packed. Packing halves most of them."
        />
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto py-2">
        <Row words="frames" tip="Single frames, first and last, or every so many: 1-10,15,20-48x2.">
          <TextField
            label="frames of the run"
            value={text}
            onChange={(frames) => set({ frames })}
            className="num min-w-0 flex-1 !py-0.5"
          />
          {choice.frames !== null && <Word onClick={() => set({ frames: null })}>all</Word>}
        </Row>
        {fault && (
          <p className="px-3.5 pb-1 pl-[92px] text-[11.5px]" role="alert">
            {fault}
          </p>
        )}
        <Row words="through" tip="The camera that frames are seen through, for looking too.">
          {document.cameras.length > 1 ? (
            <Choice
              label="camera of the run"
              value={camera.name}
              options={document.cameras.map((c) => c.name)}
              onChange={(name) => useDesk.getState().set({ camera: name })}
            />
          ) : (
            <span className="num">{camera.name}</span>
          )}
        </Row>
        <Row
          words="by"
          tip="The recipe of the shot as it stands: it is frozen when the run starts. It is edited in Tune."
        >
          <Word className="num -ml-1.5 text-left" onClick={() => useDesk.getState().set({ view: 'tune' })}>
            {recipeWords(recipe)} · {cameraMin === cameraMax ? cameraMax : `${cameraMin}–${cameraMax}`} samples
            {stopNoise > 0 ? ` to ${stopNoise} %` : ''}
          </Word>
        </Row>
        {checked && <Names checked={checked} />}
        <Row
          words="into"
          tip="A folder on the machine of the server, from its root on. Left empty, each run has one of its own."
        >
          <TextField
            label="folder of the run"
            value={choice.folder}
            placeholder="a folder of its own"
            onChange={(folder) => set({ folder })}
            className="num min-w-0 flex-1 !py-0.5 text-[11.5px]"
          />
        </Row>
        {room.data && (
          <p className="num pb-0.5 pr-3.5 pl-[92px] text-[11px] leading-[15px] break-all text-dim" data-testid="room">
            {choice.folder === '' && `${room.data.folder} · `}
            {room.data.freeBytes !== null && `${bytes(room.data.freeBytes)} free there`}
          </p>
        )}
        <Row
          words="order"
          tip="First, middle and last frame before the others show mistakes early, and tell what the rest takes."
        >
          {ORDERS.map((o) => (
            <Word key={o} on={choice.order === o} onClick={() => set({ order: o })}>
              {ORDER_WORDS[o]}
            </Word>
          ))}
        </Row>
        {hasStack && (
          <Row
            words="stack"
            tip="What the shot's stack makes of every frame, with its moods, as they stand: linear OpenEXR, or PNG or TIFF of 16 bits as shown. Both are frozen when the run starts."
          >
            {([null, ...COMP_KINDS] as const).map((as) => (
              <Word key={as} on={comp === as} onClick={() => set({ comp: as })}>
                {as === null ? 'not' : COMP_WORDS[as]}
              </Word>
            ))}
          </Row>
        )}
        <Row
          words="keeps"
          tip="Films hold all that was recorded, so that other files can be cut of them later. They take many times the space."
        >
          <Word on={!choice.keepsFilms} onClick={() => set({ keepsFilms: false })}>
            the files
          </Word>
          <Word on={choice.keepsFilms} onClick={() => set({ keepsFilms: true })}>
            films too
          </Word>
          {checked && <span className="num text-[11px] text-dim">{bytes(kept)} more</span>}
        </Row>
        <Row
          words="wanted by"
          tip="When it is to be there: before the start and while it renders you are told whether it will be, and how many workers would do it."
        >
          <WantedField value={choice.wantedAt ?? null} onChange={(wantedAt) => set({ wantedAt })} />
        </Row>
        {isReady && (
          <CheckList
            findings={findings}
            room={room.data ?? null}
            takes={{ files: size, films }}
            refused={refused}
            overwrites={choice.overwrites}
            onOverwrite={(overwrites) => set({ overwrites })}
          />
        )}
      </div>
      {checked && <Outlook checked={checked} wantedAt={choice.wantedAt ?? null} />}
      <div className="flex items-center gap-2 border-t border-line px-3.5 py-2.5">
        <Tip
          text="Renders one small frame of all pictures at once: every layer of every file is looked through, and what is written is held against the picture."
          side="top"
        >
          <Plain
            className="whitespace-nowrap !px-2"
            disabled={!isReady || findings.some((f) => f.stops) || busy}
            onClick={() => void prove()}
          >
            Prove a frame
          </Plain>
        </Tip>
        <TextField
          label="title of the run"
          value={choice.title}
          placeholder={recipe.name}
          onChange={(title) => set({ title })}
          most={120}
          className="min-w-0 flex-1 !py-1"
        />
        <Tip text="Freezes scene, recipe and outputs as they are, and has every frame rendered." side="top">
          <Primary disabled={stops || busy} onClick={() => void start()}>
            Start {counted(frames.length, 'frame')}
          </Primary>
        </Tip>
      </div>
    </>
  );
}

function Row({ words, tip, children }: { words: string; tip: string; children: ReactNode }) {
  return (
    <div className="flex min-h-[27px] items-center gap-1.5 px-3.5">
      <Tip text={tip} side="left">
        <span className="w-[68px] shrink-0 text-dim underline decoration-dotted">{words}</span>
      </Tip>
      {children}
    </div>
  );
}

/** Outputs with the names of their first and last file. */
function Names({ checked }: { checked: Checked }) {
  const { frames } = checked;
  const last = frames[frames.length - 1];
  const first = filesOfFrame(checked, checked.names, frames[0]).files.flat();
  const final = filesOfFrame(checked, checked.names, last).files.flat();
  const outputs = runPictures(checked).flatMap((p) => p.outputs.map((o) => ({ o, isOwn: p.variant !== null })));
  return (
    <div className="flex px-3.5 py-1">
      <Tip
        text="Outputs as they stand in Split: they are frozen when the run starts. Their first and last file."
        side="left"
      >
        <span className="w-[74px] shrink-0 text-dim underline decoration-dotted">delivers</span>
      </Tip>
      <ul className="min-w-0 flex-1" data-testid="run-names">
        {outputs.map(({ o, isOwn }) => {
          const own = first.filter((f) => f.output === o.name);
          const end = final.filter((f) => f.output === o.name);
          return (
            <li key={o.id} className="pb-1">
              <Word
                className="-ml-1.5 !py-0"
                onClick={() => {
                  useDesk.getState().set({ view: 'split', output: o.id });
                }}
              >
                {o.name}
              </Word>
              <span className="text-[11.5px] text-dim">
                {counted(
                  own.reduce((n, f) => n + f.layers.length, 0),
                  'layer',
                )}
                {isOwn ? ', own picture' : ''}
              </span>
              <p className="num text-[11px] leading-[15px] break-all text-soft">
                {own[0]?.name ?? '–'}
                {frames.length > 1 && end[0] ? ` … ${tailOf(own[0].name, end[0].name)}` : ''}
                {own.length > 1 ? ` and ${own.length - 1} more` : ''}
              </p>
            </li>
          );
        })}
        {checked.comp && (
          <li className="pb-1">
            <Word className="-ml-1.5 !py-0" onClick={() => useDesk.getState().set({ view: 'comp' })}>
              stack
            </Word>
            <span className="text-[11.5px] text-dim">what it makes of the picture</span>
            {first
              .filter((f) => f.output === COMP)
              .map((f) => (
                <p key={f.name} className="num text-[11px] leading-[15px] break-all text-soft">
                  {f.name}
                  {frames.length > 1 ? ` … ${tailOf(f.name, final.find((l) => l.output === COMP)!.name)}` : ''}
                </p>
              ))}
          </li>
        )}
        {outputs.length === 0 && !checked.comp && (
          <li>
            <Plain className="!px-2 !py-0.5" onClick={() => useDesk.getState().set({ view: 'split' })}>
              Choose outputs in Split
            </Plain>
          </li>
        )}
      </ul>
    </div>
  );
}

/** Of a name what differs from another one, from the last sign on that parts them from digits before. */
function tailOf(from: string, to: string): string {
  let at = 0;
  while (at < to.length && from[at] === to[at]) at++;
  while (at > 0 && /\d/.test(to[at - 1])) at--;
  return to.slice(at);
}
