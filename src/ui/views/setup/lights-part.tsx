'use client';

import { ChevronDown } from 'lucide-react';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { type FieldOwner, fieldAt } from '@/core/scene';
import { share } from '@/core/words';
import type { LightEffect } from '@/render/advice/diagnosis/light-effects';
import { NumberField } from '../../fields/number-field';
import { Toggle } from '../../fields/toggle';
import { GrainBar, Plain, Tip, ToneBar, Word } from '../../parts/controls';
import { Menu, MenuItem } from '../../parts/menu';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { useDocument, usePatient } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { Fields } from './field-row';
import { ENVIRONMENT_FIELDS, LIGHT_FIELDS, MATERIAL_FIELDS } from './specs';

/** Where a source's switch and stops are. */
function fieldsOf(e: LightEffect): { owner: FieldOwner; on: string; stops: string | null } {
  if (e.kind === 'light') return { owner: { kind: 'light', name: e.name }, on: 'on', stops: 'stops' };
  if (e.kind === 'material') return { owner: { kind: 'material', name: e.name }, on: 'light.on', stops: null };
  const owner: FieldOwner = { kind: 'environment', name: 'environment' };
  return e.kind === 'sun' ? { owner, on: 'sun.on', stops: 'sun.stops' } : { owner, on: 'on', stops: 'stops' };
}

const ASK_AFTER_MS = 900;

/** What every source of light does, measured anew a while after the last change. */
function useEffects(): { effects: LightEffect[] | null; busy: boolean } {
  const patient = usePatient();
  const { answer, asking, fault } = useAsk('effects', patient ? { patient } : null, {
    afterMs: ASK_AFTER_MS,
    keep: true,
  });
  useEffect(() => {
    if (fault) toast.error(fault, { id: 'effects' });
  }, [fault]);
  return { effects: answer, busy: asking };
}

/** Sets of lights under a name, to go to and fro between. */
function Rigs() {
  const document = useDocument();
  const { edit } = useScene.getState();
  const [naming, setNaming] = useState(false);
  const keep = (name: string) => {
    setNaming(false);
    if (name.trim() === '') return;
    edit(`keep rig ${name}`, (d) => ({
      ...d,
      rigs: [
        ...d.rigs.filter((r) => r.name !== name.trim()),
        { name: name.trim(), lights: d.lights, environment: d.environment },
      ],
    }));
  };
  const current = document.rigs.find(
    (r) => JSON.stringify([r.lights, r.environment]) === JSON.stringify([document.lights, document.environment]),
  );
  return (
    <div className="flex h-9 items-center gap-1 border-b border-line pr-2 pl-3.5">
      <Tip text="A rig is all lights and the surroundings under a name. Going to another is one step of undo.">
        <span className="text-dim">Rig</span>
      </Tip>
      {naming ? (
        <input
          // biome-ignore lint/a11y/noAutofocus: asked for by the button before it
          autoFocus
          aria-label="name of the rig"
          placeholder="name, then Enter"
          className="w-32 rounded-sm border border-line bg-pit px-2 py-0.5 outline-none"
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === 'Enter') keep(e.currentTarget.value);
            if (e.key === 'Escape') setNaming(false);
          }}
          onBlur={(e) => keep(e.target.value)}
        />
      ) : (
        <>
          <Menu
            trigger={
              <button
                type="button"
                aria-label="rig"
                className="flex items-center gap-1 rounded-sm px-1 py-0.5 hover:bg-raised"
              >
                <span className="font-semibold">{current?.name ?? 'not kept'}</span>
                <ChevronDown size={12} aria-hidden="true" />
              </button>
            }
          >
            {document.rigs.map((r) => (
              <MenuItem
                key={r.name}
                onSelect={() => edit(`rig ${r.name}`, (d) => ({ ...d, lights: r.lights, environment: r.environment }))}
              >
                {r.name} <span className="opacity-60">{r.lights.length} lights</span>
              </MenuItem>
            ))}
            {document.rigs.length === 0 && <p className="px-2 py-1 text-dim">None is kept yet.</p>}
          </Menu>
          <Word onClick={() => setNaming(true)}>Keep as</Word>
          {current && (
            <Word
              onClick={() =>
                edit(`forget rig ${current.name}`, (d) => ({ ...d, rigs: d.rigs.filter((r) => r !== current) }))
              }
            >
              Forget
            </Word>
          )}
        </>
      )}
    </div>
  );
}

/** All sources of light by what they do for the picture. */
export function LightsPart() {
  const document = useDocument();
  const { effects, busy } = useEffects();
  const desk = useDesk();
  const { setField, choose } = useScene.getState();
  const [shown, setShown] = useState<string | null>(null);
  const open = effects?.find((e) => e.name === shown);
  return (
    <>
      <Rigs />
      <div className="grid grid-cols-[1fr_28px_27px_28px_27px_52px_30px_34px] items-center gap-x-1 border-b border-line px-3.5 py-1 text-[11px] text-dim">
        <span>{busy ? 'measuring' : 'source'}</span>
        <Tip text="Its share of all light in the picture, measured by a render of its own.">
          <span className="col-span-2">light</span>
        </Tip>
        <Tip text="Its share of the noise (variance).">
          <span className="col-span-2">noise</span>
        </Tip>
        <span>stops</span>
        <span>on</span>
        <span>alone</span>
      </div>
      <div className="max-h-[46%] overflow-y-auto border-b border-line" data-testid="light-effects">
        {effects?.length === 0 && (
          <p className="px-4 py-3 text-dim">
            Nothing gives light yet. Contents › Add › Light puts a lamp before the camera.
          </p>
        )}
        {!effects && <p className="px-4 py-3 text-dim">Measuring what each light does for the picture</p>}
        {effects?.map((e) => {
          const f = fieldsOf(e);
          const on = fieldAt(document, f.owner, f.on);
          const stops = f.stops ? fieldAt(document, f.owner, f.stops) : undefined;
          return (
            <div key={`${e.kind} ${e.name}`} className={shown === e.name ? 'bg-raised' : ''}>
              <div className="grid h-[26px] grid-cols-[1fr_28px_27px_28px_27px_52px_30px_34px] items-center gap-x-1 px-3.5 hover:bg-raised">
                <button
                  type="button"
                  className="truncate text-left"
                  onClick={() => {
                    setShown(shown === e.name ? null : e.name);
                    if (e.kind === 'light' || e.kind === 'material') choose([{ kind: e.kind, name: e.name }]);
                  }}
                >
                  {e.name}
                  {e.kind === 'material' && <span className="ml-1 text-dim">glow</span>}
                </button>
                <ToneBar value={e.light} label={`${share(e.light)} of the light`} />
                <span className="num text-right text-[11px] text-dim">{share(e.light)}</span>
                <GrainBar value={e.noise} label={`${share(e.noise)} of the noise`} />
                <span className="num text-right text-[11px] text-dim">{share(e.noise)}</span>
                {typeof stops === 'number' && f.stops ? (
                  <NumberField
                    label={`${e.name} stops`}
                    value={stops}
                    step={0.5}
                    width="w-[52px]"
                    onChange={(v) => (v === null ? null : setField([f.owner], f.stops!, v))}
                  />
                ) : (
                  <span />
                )}
                <Toggle label={`${e.name} on`} on={on !== false} onChange={(v) => setField([f.owner], f.on, v)} />
                <Word
                  on={desk.solo === e.name}
                  onClick={() => desk.set({ solo: desk.solo === e.name ? null : e.name })}
                >
                  only
                </Word>
              </div>
              {e.why && <p className="px-4 pb-1 text-[11px] text-dim">Gives nothing: {e.why}.</p>}
            </div>
          );
        })}
      </div>
      {desk.solo && (
        <div className="flex items-center gap-2 border-b border-line bg-raised px-4 py-1.5">
          <span className="flex-1">Only {desk.solo} is on, for looking; trials have all lights.</span>
          <Plain onClick={() => desk.set({ solo: null })}>All on</Plain>
        </div>
      )}
      <div className="min-h-0 flex-1 overflow-y-auto">
        {open?.kind === 'light' && document.lights.some((l) => l.name === open.name) && (
          <Fields
            groups={LIGHT_FIELDS}
            owners={[{ kind: 'light', name: open.name }]}
            document={document}
            kinds={document.lights.filter((l) => l.name === open.name).map((l) => l.kind)}
          />
        )}
        {open?.kind === 'material' && (
          <Fields
            groups={MATERIAL_FIELDS.filter((g) => g.title === 'Glow')}
            owners={[{ kind: 'material', name: open.name }]}
            document={document}
          />
        )}
        {(open?.kind === 'environment' || open?.kind === 'sun') && document.environment && (
          <Fields
            groups={ENVIRONMENT_FIELDS[document.environment.kind]}
            owners={[{ kind: 'environment', name: '' }]}
            document={document}
          />
        )}
        {!open && (
          <p className="px-4 py-3 text-dim">
            Click a source to set its power, colour, group, whom it lights and its gain by role.
          </p>
        )}
      </div>
    </>
  );
}
