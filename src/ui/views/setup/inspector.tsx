'use client';

import { Copy, CopyPlus, Crosshair, FlipHorizontal2, Magnet, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import {
  type FieldOwner,
  type Form,
  formSchema,
  type ItemRef,
  placementOf,
  type SceneDocument,
  transformOf,
} from '@/core/scene';
import { NamesField } from '../../fields/names-field';
import { NumberField } from '../../fields/number-field';
import { Tip } from '../../parts/controls';
import { Menu, MenuItem } from '../../parts/menu';
import { useAim } from '../../state/aim-store';
import { useScene } from '../../state/scene-store';
import { aimChosen, copyChosen, mirrorChosen, removeChosen, snapChosen } from './actions';
import { Fields } from './field-row';
import { MaterialHead, ObjectMaterial, TextureRows } from './material-parts';
import { CAMERA_FIELDS, LIGHT_FIELDS, MATERIAL_FIELDS, RULE_FIELDS } from './specs';

function Act({
  tip,
  label,
  on,
  onClick,
  children,
}: {
  tip: string;
  label: string;
  on?: boolean;
  onClick?: () => void;
  children: ReactNode;
}) {
  return (
    <Tip text={tip}>
      <button
        type="button"
        aria-label={label}
        aria-pressed={on}
        onClick={onClick}
        className={`rounded-sm p-1 ${on ? 'bg-fill text-pit' : 'text-soft hover:text-ink'}`}
      >
        {children}
      </button>
    </Tip>
  );
}

function Head({ chosen }: { chosen: ItemRef[] }) {
  const aim = useAim((s) => s.aim);
  const kinds = new Set(chosen.map((c) => c.kind));
  const placed = [...kinds].every((k) => k === 'object' || k === 'light' || k === 'camera');
  return (
    <div className="flex h-9 items-center gap-0.5 border-y border-line pr-2 pl-3.5">
      <span className="min-w-0 flex-1 truncate font-semibold" data-testid="chosen">
        {chosen.length === 1 ? chosen[0].name : `${chosen.length} chosen`}
        <span className="ml-2 font-normal text-dim">{kinds.size === 1 ? [...kinds][0] : 'several kinds'}</span>
      </span>
      <Act tip="A copy of its own (Ctrl D)" label="copy" onClick={() => copyChosen(false)}>
        <Copy size={13} />
      </Act>
      {kinds.has('object') && (
        <Act
          tip="A copy that shares its shape: changing one changes both"
          label="linked copy"
          onClick={() => copyChosen(true)}
        >
          <CopyPlus size={13} />
        </Act>
      )}
      {placed && (
        <>
          <Menu
            trigger={
              <button
                type="button"
                aria-label="mirrored copy"
                title="A copy in the mirror of a plane through the origin"
                className="rounded-sm p-1 text-soft hover:text-ink"
              >
                <FlipHorizontal2 size={13} />
              </button>
            }
          >
            {(['x', 'y', 'z'] as const).map((axis, k) => (
              <MenuItem key={axis} onSelect={() => mirrorChosen(k as 0 | 1 | 2)}>
                across {axis}
              </MenuItem>
            ))}
          </Menu>
          <Act tip="Face what you click in the picture" label="aim at" on={aim?.by === 'aim'} onClick={aimChosen}>
            <Crosshair size={13} />
          </Act>
          <Act
            tip="Put it onto the surface you click in the picture"
            label="snap to surface"
            on={aim?.by === 'snap'}
            onClick={snapChosen}
          >
            <Magnet size={13} />
          </Act>
        </>
      )}
      <Act tip="Remove (Delete)" label="remove" onClick={removeChosen}>
        <Trash2 size={13} />
      </Act>
    </div>
  );
}

function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <details open className="border-b border-line py-1">
      <summary className="cursor-pointer list-none px-3.5 py-1 font-semibold">{title}</summary>
      {children}
    </details>
  );
}

function Row({ label, tip, children }: { label: string; tip: string; children: ReactNode }) {
  return (
    <div className="flex min-h-[26px] items-center gap-2 pr-3 pl-4 hover:bg-raised">
      <Tip text={tip} side="left">
        <span className="min-w-0 flex-1 truncate">{label}</span>
      </Tip>
      {children}
    </div>
  );
}

const PARTS = [
  { key: 'position', label: 'Place', tip: 'Metres from the origin.', step: 0.1 },
  { key: 'degrees', label: 'Turn', tip: 'Degrees about x, y and z.', step: 5 },
  { key: 'scale', label: 'Size ×', tip: 'Multiple of its own size.', step: 0.1 },
] as const;

/** Place, turn and size of objects; each number is set for all that are chosen. */
function PlacementRows({ document, names }: { document: SceneDocument; names: string[] }) {
  const objects = document.objects.filter((o) => names.includes(o.name));
  if (objects.some((o) => o.motion))
    return <p className="px-4 py-1 text-dim">It moves by its own animation over the frames.</p>;
  const placements = objects.map((o) => placementOf(o.transform));
  const set = (key: (typeof PARTS)[number]['key'], k: number, v: number) => {
    if (key === 'scale' && v === 0) return 'a size of 0 is nothing';
    return useScene.getState().edit(`${names[0]}: ${key}`, (d) => ({
      ...d,
      objects: d.objects.map((o) => {
        if (!names.includes(o.name)) return o;
        const p = placementOf(o.transform);
        const values = [...p[key]] as [number, number, number];
        values[k] = v;
        return { ...o, transform: transformOf({ ...p, [key]: values }) };
      }),
    }));
  };
  return (
    <Section title="Placement">
      {PARTS.map(({ key, label, tip, step }) => (
        <Row key={key} label={label} tip={tip}>
          <span className="flex gap-1">
            {['x', 'y', 'z'].map((axis, k) => {
              const first = placements[0]?.[key][k] ?? 0;
              const same = placements.every((p) => p[key][k] === first);
              return (
                <NumberField
                  key={axis}
                  label={`${label} ${axis}`}
                  value={same ? Number(first.toFixed(4)) : null}
                  off={same ? undefined : '≠'}
                  step={step}
                  width="w-[70px]"
                  onChange={(v) => (v === null ? null : set(key, k, v))}
                />
              );
            })}
          </span>
        </Row>
      ))}
    </Section>
  );
}

/** Measures of a shape made here. */
function FormRows({ form }: { form: Form }) {
  const measures = Object.entries(form).filter(([, v]) => typeof v === 'number') as [string, number][];
  const set = (key: string, v: number) => {
    const parsed = formSchema.safeParse({ ...form, [key]: v });
    if (!parsed.success) return parsed.error.issues[0].message;
    return useScene.getState().edit(`${form.name}: ${key}`, (d) => ({
      ...d,
      forms: d.forms.map((f) => (f.name === form.name ? parsed.data : f)),
    }));
  };
  return (
    <Section title={`Shape: ${form.kind}`}>
      {measures.map(([key, value]) => (
        <Row
          key={key}
          label={key[0].toUpperCase() + key.slice(1)}
          tip={key === 'segments' ? 'Edges around it.' : 'Metres.'}
        >
          <NumberField
            label={key}
            value={value}
            step={key === 'segments' ? 1 : 0.05}
            suffix={key === 'segments' ? undefined : 'm'}
            width="w-[96px]"
            onChange={(v) => (v === null ? null : set(key, v))}
          />
        </Row>
      ))}
    </Section>
  );
}

function ObjectFields({ document, names }: { document: SceneDocument; names: string[] }) {
  const own: FieldOwner[] = names.map((name) => ({ kind: 'object', name }));
  const rules = RULE_FIELDS.map((g) => ({ ...g, fields: g.fields.map((f) => ({ ...f, path: `rules.${f.path}` })) }));
  const first = document.objects.find((o) => o.name === names[0]);
  const form = names.length === 1 ? document.forms.find((f) => f.name === first?.mesh) : undefined;
  const entry = document.geometry.meshes.find((m) => m.name === first?.mesh);
  return (
    <>
      <ObjectMaterial document={document} names={names} />
      <PlacementRows document={document} names={names} />
      {form && <FormRows form={form} />}
      <Fields groups={rules} owners={own} document={document} />
      {names.length === 1 && entry && (
        <p className="num px-4 py-2 text-[11px] text-dim">
          {entry.triangles.toLocaleString('en')} triangles{entry.uvs ? '' : ', no texture coordinates'}
        </p>
      )}
    </>
  );
}

function SetFields({ document, name }: { document: SceneDocument; name: string }) {
  return (
    <>
      <Section title="Members">
        <Row label="Objects" tip="What belongs to the set. Rows of objects can also be dragged onto it.">
          <NamesField
            label="members"
            none="empty"
            value={document.sets[name]}
            options={document.objects.map((o) => o.name)}
            onChange={(v) =>
              useScene.getState().edit(`${name}: members`, (d) => ({ ...d, sets: { ...d.sets, [name]: v } }))
            }
          />
        </Row>
      </Section>
      <Fields groups={RULE_FIELDS} owners={[{ kind: 'rules', name }]} document={document} />
    </>
  );
}

/** What is chosen, and all of its properties. */
export function Inspector({ document }: { document: SceneDocument }) {
  const chosen = useScene((s) => s.chosen);
  if (chosen.length === 0)
    return (
      <p className="border-t border-line px-4 py-3 text-dim" data-testid="inspector">
        Choose something in the list, in the picture or in the space to see what it is made of. Ctrl adds to the choice.
      </p>
    );
  const kind = chosen.every((c) => c.kind === chosen[0].kind) ? chosen[0].kind : null;
  const names = chosen.map((c) => c.name);
  const lights = document.lights.filter((l) => names.includes(l.name));
  return (
    <div className="flex min-h-0 flex-[1.6] flex-col" data-testid="inspector">
      <Head chosen={chosen} />
      <div className="min-h-0 flex-1 overflow-y-auto">
        {kind === 'light' && lights.some((l) => l.motion) && (
          <p className="px-4 py-1 text-dim">It moves by its own animation: place and direction below are not used.</p>
        )}
        {kind === 'light' && (
          <Fields groups={LIGHT_FIELDS} owners={chosen} document={document} kinds={lights.map((l) => l.kind)} />
        )}
        {kind === 'camera' && <Fields groups={CAMERA_FIELDS} owners={chosen} document={document} />}
        {kind === 'object' && <ObjectFields document={document} names={names} />}
        {kind === 'material' && (
          <>
            {names.length === 1 && <MaterialHead document={document} name={names[0]} />}
            <Fields groups={MATERIAL_FIELDS} owners={chosen} document={document} />
            {names.length === 1 && <TextureRows document={document} name={names[0]} />}
          </>
        )}
        {kind === 'set' && names.length === 1 && <SetFields document={document} name={names[0]} />}
        {kind === null && (
          <p className="px-4 py-3 text-dim">They share no properties; move, copy or remove them together.</p>
        )}
      </div>
    </div>
  );
}
