'use client';

import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { freeMesh, freeName, picturedEnvironment, type SceneDocument } from '@/core/scene';
import { counted } from '@/core/words';
import { Plain, Primary } from '../parts/controls';
import { Dialog } from '../parts/dialog';
import { api } from '../state/api';
import { useDesk } from '../state/desk-store';
import { saveDraftNow } from '../state/draft';
import { useScene } from '../state/scene-store';
import { kindOf, stillNumber } from './choose';
import { ImportClient, importPicture, type ReadMessage } from './import-client';
import { type Given, useImport } from './import-store';

/** Whatever files were given: a scene to look over, or pictures to use. */
export function ImportDialog({ shot }: { shot: string }) {
  const { files, done } = useImport();
  if (!files) return null;
  const kind = kindOf(files.map((f) => ({ name: f.path })));
  if (kind === 'scene') return <SceneImport key={files[0].path} files={files} shot={shot} />;
  if (kind === 'pictures') return <PictureImport key={files[0].path} files={files} />;
  return (
    <Frame title="Nothing to bring in" onClose={done}>
      <p className="text-soft">
        {files
          .map((f) => f.path)
          .slice(0, 3)
          .join(', ')}
        : a shot takes .glb, or .gltf with its files; pictures are .hdr, .exr, .png, .jpg and .tif.
      </p>
    </Frame>
  );
}

function Frame({ title, onClose, children }: { title: string; onClose: () => void; children: React.ReactNode }) {
  return (
    <Dialog
      title={title}
      place="form"
      className="!top-1/2 flex max-h-[84vh] !w-[600px] -translate-y-1/2 flex-col gap-3 overflow-y-auto"
      onClose={onClose}
    >
      {children}
    </Dialog>
  );
}

const SURE_FIXES = ['no-light', 'no-material', 'inverted', 'light-groups'];

function SceneImport({ files, shot }: { files: Given[]; shot: string }) {
  const { done } = useImport();
  const client = useRef<ImportClient | null>(null);
  const [step, setStep] = useState<{ words: string; fraction: number } | null>({ words: 'reading', fraction: 0 });
  const [read, setRead] = useState<ReadMessage | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const [fixes, setFixes] = useState<string[]>([]);
  const [name, setName] = useState('');
  useEffect(() => {
    const own = new ImportClient((words, fraction) => setStep({ words, fraction }));
    client.current = own;
    own
      .readScene(files)
      .then((r) => {
        setRead(r);
        setName(r.name);
        // Only what cannot be wrong is mended unasked.
        setFixes(r.findings.filter((f) => SURE_FIXES.includes(f.code)).map((f) => f.code));
      })
      .catch((e) => setFault((e as Error).message))
      .finally(() => setStep(null));
    return () => own.close();
  }, [files]);
  const open = async () => {
    try {
      const document = await client.current!.keep(fixes);
      await saveDraftNow(shot);
      const made = await api.addShot(name.trim(), document);
      window.location.assign(`?shot=${encodeURIComponent(made.name)}`);
    } catch (error) {
      setStep(null);
      toast.error((error as Error).message);
    }
  };
  const add = async () => {
    try {
      const document = await client.current!.keep(fixes);
      const fault = await joinInto(document);
      if (fault) throw new Error(fault);
      done();
    } catch (error) {
      setStep(null);
      toast.error((error as Error).message);
    }
  };
  return (
    <Frame title="Bring in a scene" onClose={done}>
      {step && (
        <div role="status" className="flex items-center gap-3">
          <span className="block h-1 w-40 bg-pit">
            <span className="block h-full bg-fill" style={{ width: `${step.fraction * 100}%` }} />
          </span>
          <span className="text-soft">{step.words}</span>
          <Plain onClick={done}>Stop</Plain>
        </div>
      )}
      {fault && (
        <>
          <p role="alert">{fault}</p>
          <p className="text-dim">Nothing was changed.</p>
          <Plain onClick={done} className="self-start">
            Close
          </Plain>
        </>
      )}
      {read && !step && (
        <>
          <p className="num text-soft" data-testid="import-counts">
            {counted(read.counts.objects, 'object')} · {counted(read.counts.triangles, 'triangle')} ·{' '}
            {counted(read.counts.materials, 'material')} · {counted(read.counts.cameras, 'camera')} ·{' '}
            {counted(read.counts.lights, 'light')} ·{' '}
            {read.counts.metres < 1
              ? `${(read.counts.metres * 100).toFixed(1)} cm`
              : `${read.counts.metres.toFixed(1)} m`}{' '}
            across
          </p>
          {read.findings.length > 0 && (
            <ul className="flex flex-col gap-1.5" aria-label="what was found">
              {read.findings.map((f) => (
                <li
                  key={f.code}
                  className="flex items-start gap-3 border-t border-line pt-1.5"
                  data-testid={`finding-${f.code}`}
                >
                  <span className="flex-1">{f.words}</span>
                  {f.fix && (
                    <label className="flex shrink-0 items-center gap-1.5">
                      <input
                        type="checkbox"
                        checked={fixes.includes(f.code)}
                        onChange={(e) =>
                          setFixes(e.target.checked ? [...fixes, f.code] : fixes.filter((c) => c !== f.code))
                        }
                      />
                      {f.fix}
                    </label>
                  )}
                </li>
              ))}
            </ul>
          )}
          {read.warnings.length > 0 && (
            <details>
              <summary className="cursor-pointer text-soft">
                {read.warnings.length} things were not taken or are unusual
              </summary>
              <ul className="mt-1 list-disc pl-5 text-dim">
                {read.warnings.map((w) => (
                  <li key={w}>{w}</li>
                ))}
              </ul>
            </details>
          )}
          <div className="flex items-center gap-2">
            <label className="flex flex-1 items-center gap-2">
              Shot
              <input
                value={name}
                onChange={(e) => setName(e.target.value)}
                className="min-w-0 flex-1 rounded-sm border border-line bg-pit px-2 py-1 outline-none focus:border-soft"
              />
            </label>
            <Plain onClick={() => void add()}>Add to this shot</Plain>
            <Primary disabled={name.trim() === ''} onClick={() => void open()}>
              Open as a shot
            </Primary>
          </div>
        </>
      )}
    </Frame>
  );
}

/** Adds a scene's objects, materials, lights and cameras to the open shot, its geometry behind the shot's own. */
async function joinInto(other: SceneDocument): Promise<string | null> {
  const now = useScene.getState().document!;
  const get = async (hash: string) => {
    const r = await fetch(`/api/blobs/${hash}`);
    if (!r.ok) throw new Error(`content ${hash.slice(0, 12)} could not be loaded`);
    return new Uint8Array(await r.arrayBuffer());
  };
  const [own, added] = await Promise.all([
    now.geometry.bytes > 0 ? get(now.geometry.hash) : new Uint8Array(0),
    get(other.geometry.hash),
  ]);
  const start = (own.length + 3) & ~3;
  const bytes = new Uint8Array(start + added.length);
  bytes.set(own);
  bytes.set(added, start);
  const { hash } = await api.putContent(bytes);
  return useScene.getState().edit(`add ${other.name}`, (d) => {
    const meshNames = new Map<string, string>();
    const materialNames = new Map<string, string>();
    const pictureNames = new Map<string, string>();
    let out: SceneDocument = {
      ...d,
      geometry: {
        hash,
        bytes: bytes.length,
        meshes: [...d.geometry.meshes],
        pictures: [...d.geometry.pictures],
      },
    };
    for (const m of other.geometry.meshes) {
      const name = freeMesh(out, m.name);
      meshNames.set(m.name, name);
      out.geometry.meshes.push({ ...m, name, offset: m.offset + start });
    }
    for (const p of other.geometry.pictures) {
      let name = p.name;
      for (let n = 2; out.geometry.pictures.some((x) => x.name === name); n++) name = `${p.name} ${n}`;
      pictureNames.set(p.name, name);
      out.geometry.pictures.push({ ...p, name, offset: p.offset + start });
    }
    for (const f of other.forms) {
      const name = freeMesh(out, f.name);
      meshNames.set(f.name, name);
      out = { ...out, forms: [...out.forms, { ...f, name }] };
    }
    for (const m of other.materials) {
      const name = freeName(out, 'material', m.name);
      materialNames.set(m.name, name);
      const textures = m.textures.map((t) => ({ ...t, picture: pictureNames.get(t.picture) ?? t.picture }));
      out = { ...out, materials: [...out.materials, { ...m, name, textures }] };
    }
    for (const o of other.objects)
      out = {
        ...out,
        objects: [
          ...out.objects,
          {
            ...o,
            name: freeName(out, 'object', o.name),
            mesh: meshNames.get(o.mesh) ?? o.mesh,
            material: materialNames.get(o.material) ?? o.material,
            shapes: o.shapes?.map((s) => ({ ...s, mesh: meshNames.get(s.mesh) ?? s.mesh })),
          },
        ],
      };
    for (const l of other.lights)
      out = { ...out, lights: [...out.lights, { ...l, name: freeName(out, 'light', l.name) }] };
    return {
      ...out,
      contents: [...out.contents, ...other.contents.filter((c) => !out.contents.some((x) => x.name === c.name))],
    };
  });
}

/** Pictures: all around, to look at, or numbered stills behind the shot. */
function PictureImport({ files }: { files: Given[] }) {
  const { done } = useImport();
  const desk = useDesk();
  const [busy, setBusy] = useState<string | null>(null);
  const numbered = files.length > 1 && files.every((f) => stillNumber(f.path) !== null);
  const use = async (as: 'environment' | 'reference') => {
    try {
      for (const [i, f] of files.entries()) {
        setBusy(`${f.path} (${i + 1} of ${files.length})`);
        const content = await importPicture(f.file, as);
        useScene.getState().edit(`${as} ${content.name}`, (d) => {
          const contents = [...d.contents.filter((c) => c.name !== content.name), content];
          if (as === 'environment')
            return {
              ...d,
              contents,
              environment: picturedEnvironment(d.environment, content.name),
            };
          if (!numbered) return { ...d, contents };
          const number = stillNumber(f.path)!;
          const name =
            f.path
              .replace(/[._-]?\d+\.[a-z]+$/i, '')
              .split('/')
              .at(-1) || 'plate';
          const known = d.plates.find((p) => p.name === name) ?? { name, stills: [], offset: 0, gaps: 'hold' as const };
          const plate = {
            ...known,
            stills: [...known.stills.filter((s) => s.number !== number), { number, picture: content.name }],
          };
          return { ...d, contents, plates: [...d.plates.filter((p) => p.name !== name), plate] };
        });
        if (as === 'reference') desk.set({ b: { kind: 'reference', name: content.name }, compare: 'wipe' });
      }
      done();
    } catch (error) {
      toast.error((error as Error).message);
      setBusy(null);
    }
  };
  return (
    <Frame title={files.length === 1 ? files[0].path : `${files.length} pictures`} onClose={done}>
      {busy ? (
        <p role="status" className="text-soft">
          Reading {busy}
        </p>
      ) : (
        <>
          <p className="text-soft">
            {numbered
              ? 'Numbered stills stand behind the shot, one a frame; where a number is missing the one before is held.'
              : 'What is it for?'}
          </p>
          <div className="flex gap-2">
            <Primary onClick={() => void use('reference')}>
              {numbered ? 'Stills to compare with' : 'To compare with, in B'}
            </Primary>
            {!numbered && <Plain onClick={() => void use('environment')}>Surroundings that light the scene</Plain>}
          </div>
        </>
      )}
    </Frame>
  );
}
