'use client';

import { Slider } from 'radix-ui';
import type { ReactNode } from 'react';
import { toast } from 'sonner';
import { type FieldOwner, IOR_PRESETS, lightGroups, type SceneDocument, type Shared, sharedField } from '@/core/scene';
import { Choice } from '../../fields/choice';
import { NamesField } from '../../fields/names-field';
import { NumberField } from '../../fields/number-field';
import { Toggle } from '../../fields/toggle';
import { WordsField } from '../../fields/words-field';
import { Tip } from '../../parts/controls';
import { settle } from '../../state/history';
import { useScene } from '../../state/scene-store';
import { SceneColor } from './scene-color';
import type { FieldGroup, FieldSpec } from './specs';

interface RowProps {
  spec: FieldSpec;
  owners: readonly FieldOwner[];
  document: SceneDocument;
}

const MIXED = '≠';

/** A value that stands for what several items hold, or that they differ. */
const oneValue = (shared: Shared) => (shared.same ? shared.value : undefined);

function set(owners: readonly FieldOwner[], spec: FieldSpec, value: unknown, drag = false): string | null {
  return useScene.getState().setField(owners, spec.path, value, drag ? `${owners[0].name} ${spec.path}` : undefined);
}

function told(fault: string | null): string | null {
  if (fault) toast.error(fault, { id: 'field' });
  return fault;
}

/** Position on a slider of 0..1000. */
const toSlider = (v: number, as: Extract<FieldSpec['as'], { kind: 'number' }>) => {
  const { min, max, log } = as;
  if (!log) return ((Math.min(max, Math.max(min, v)) - min) / (max - min)) * 1000;
  const low = Math.max(min, max * 1e-6);
  return v <= low ? 0 : (Math.log(Math.min(max, v) / low) / Math.log(max / low)) * 1000;
};
const fromSlider = (x: number, as: Extract<FieldSpec['as'], { kind: 'number' }>) => {
  const { min, max, step, log } = as;
  if (!log) return Number((Math.round((min + (x / 1000) * (max - min)) / step) * step).toFixed(6));
  const low = Math.max(min, max * 1e-6);
  return x === 0 ? min : Number((low * (max / low) ** (x / 1000)).toPrecision(3));
};

function NumberControl({ spec, owners, shared }: { spec: FieldSpec; owners: readonly FieldOwner[]; shared: Shared }) {
  if (spec.as.kind !== 'number') return null;
  const { as } = spec;
  const value = oneValue(shared);
  const shown = typeof value === 'number' ? value : null;
  const implied = shown ?? (spec.path === 'samples' && owners[0].kind !== 'light' ? 1 : null);
  return (
    <>
      <Slider.Root
        className="relative flex h-4 w-[94px] touch-none items-center"
        min={0}
        max={1000}
        step={1}
        value={[implied === null ? 0 : toSlider(implied, as)]}
        onValueChange={([x]) => told(set(owners, spec, fromSlider(x, as), true))}
        onValueCommit={() => settle()}
      >
        <Slider.Track className="relative h-[3px] grow bg-pit">
          <Slider.Range className={`absolute h-full ${implied === null ? 'bg-line' : 'bg-dim'}`} />
        </Slider.Track>
        <Slider.Thumb
          aria-label={`${spec.label} slider`}
          className={`block h-3 w-1.5 rounded-[1px] ${implied === null ? 'bg-dim' : 'bg-fill'}`}
        />
      </Slider.Root>
      <NumberField
        label={spec.label}
        value={implied === null ? null : Number(implied.toPrecision(6))}
        step={as.step}
        off={shared.same ? (as.none ?? '') : MIXED}
        width="w-[98px]"
        suffix={as.unit}
        onChange={(v) => {
          if (v === null && !as.none) return null;
          const none = spec.path === 'kelvin' || spec.path === 'focusMetres' ? undefined : null;
          return set(owners, spec, v ?? none);
        }}
      />
    </>
  );
}

function PlaceControl({ spec, owners, shared }: { spec: FieldSpec; owners: readonly FieldOwner[]; shared: Shared }) {
  const value = oneValue(shared) as number[] | undefined;
  return (
    <span className="flex gap-1">
      {['x', 'y', 'z'].map((axis, k) => (
        <NumberField
          key={axis}
          label={`${spec.label} ${axis}`}
          value={value ? Number(value[k].toFixed(4)) : null}
          off={value ? undefined : MIXED}
          step={0.1}
          width="w-[70px]"
          onChange={(v) => (v === null ? null : set(owners, { ...spec, path: `${spec.path}.${k}` }, v))}
        />
      ))}
    </span>
  );
}

const WIDE = 'w-[136px]';
const DIFFER = `${MIXED} differ`;

/** Stands for no name: no item is called so. */
const NONE = '\u0000none';

function Control({ spec, owners, document }: RowProps) {
  const shared = sharedField(document, owners, spec.path);
  const value = oneValue(shared);
  const { as } = spec;
  switch (as.kind) {
    case 'number':
      return <NumberControl spec={spec} owners={owners} shared={shared} />;
    case 'place':
      return <PlaceControl spec={spec} owners={owners} shared={shared} />;
    case 'switch':
      return (
        <span className="flex items-center gap-2">
          {!shared.same && <span className="text-dim">{MIXED}</span>}
          <Toggle
            label={spec.label}
            // Rules that are not set let everything be.
            on={shared.same && value !== false}
            onChange={(on) => told(set(owners, spec, on))}
          />
        </span>
      );
    case 'choice':
      return (
        <Choice
          label={spec.label}
          value={shared.same ? String(value ?? as.of[0]) : null}
          placeholder={DIFFER}
          width={WIDE}
          options={as.of}
          onChange={(v) => told(set(owners, spec, v))}
        />
      );
    case 'ior': {
      const preset = IOR_PRESETS.find((p) => p.ior === value);
      return (
        <span className="flex gap-1">
          <Choice
            label={`${spec.label} preset`}
            value={shared.same ? (preset?.name ?? 'own') : null}
            placeholder={DIFFER}
            width={WIDE}
            options={['own', ...IOR_PRESETS.map((p) => p.name)]}
            onChange={(v) => {
              const chosen = IOR_PRESETS.find((p) => p.name === v);
              if (chosen) told(set(owners, spec, chosen.ior));
            }}
          />
          <NumberField
            label={spec.label}
            value={typeof value === 'number' ? value : null}
            off={shared.same ? undefined : MIXED}
            step={0.01}
            width="w-[72px]"
            onChange={(v) => (v === null ? null : set(owners, spec, v))}
          />
        </span>
      );
    }
    case 'color':
      return (
        <SceneColor
          label={spec.label}
          value={value as [number, number, number] | undefined}
          mixed={!shared.same}
          onChange={(v, drag) => told(set(owners, spec, v, drag))}
          onSettled={() => settle()}
        />
      );
    case 'group':
      return (
        <WordsField
          label={spec.label}
          value={shared.same ? String(value ?? 'other') : ''}
          known={lightGroups(document)}
          placeholder={shared.same ? '' : DIFFER}
          width={WIDE}
          onChange={(v) => told(set(owners, spec, v.toLowerCase().replaceAll(' ', '_')))}
        />
      );
    case 'material':
    case 'object': {
      const names = as.kind === 'material' ? document.materials : document.objects;
      return (
        <Choice
          label={spec.label}
          value={!shared.same ? null : value ? String(value) : NONE}
          placeholder={DIFFER}
          width={WIDE}
          options={[...(as.none ? [{ value: NONE, label: as.none }] : []), ...names.map((n) => n.name)]}
          onChange={(v) => told(set(owners, spec, v === NONE ? null : v))}
        />
      );
    }
    case 'links':
      return (
        <NamesField
          label={spec.label}
          none={as.none}
          value={(value as string[] | null | undefined) ?? []}
          mixed={!shared.same}
          options={[...Object.keys(document.sets), ...document.objects.map((o) => o.name)]}
          onChange={(v) => told(set(owners, spec, spec.path.endsWith('include') && v.length === 0 ? null : v))}
        />
      );
  }
}

/** One field of one or more items. */
export function FieldRow(props: RowProps) {
  const { spec } = props;
  return (
    <div className="flex min-h-[26px] items-center gap-2 pr-3 pl-4 hover:bg-raised">
      <Tip text={spec.tip} side="left">
        <span className="min-w-0 flex-1 truncate">{spec.label}</span>
      </Tip>
      <Control {...props} />
    </div>
  );
}

/** Groups of fields, those left out that the items do not have. */
export function Fields({
  groups,
  owners,
  document,
  kinds,
  beside,
}: {
  groups: readonly FieldGroup[];
  owners: readonly FieldOwner[];
  document: SceneDocument;
  kinds?: readonly string[];
  beside?: Record<string, ReactNode>;
}) {
  const shown = (f: FieldSpec) => !f.only || !kinds || kinds.every((k) => f.only!.includes(k));
  return (
    <>
      {groups.map((g) => {
        const fields = g.fields.filter(shown);
        if (fields.length === 0) return null;
        return (
          <details key={g.title} open className="border-b border-line py-1">
            <summary className="flex cursor-pointer list-none items-center px-3.5 py-1 font-semibold">
              <span className="flex-1">{g.title}</span>
              {beside?.[g.title]}
            </summary>
            {fields.map((f) => (
              <FieldRow key={f.path} spec={f} owners={owners} document={document} />
            ))}
          </details>
        );
      })}
    </>
  );
}
