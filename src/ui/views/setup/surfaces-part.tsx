'use client';

import { addSurface, type Material, STARTER_SURFACES } from '@/core/scene';
import { NamesField } from '../../fields/names-field';
import { NumberField } from '../../fields/number-field';
import { Toggle } from '../../fields/toggle';
import { Plain, Tip } from '../../parts/controls';
import { useAim } from '../../state/aim-store';
import { useRecipe } from '../../state/recipe-store';
import { useDocument } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { Fields } from './field-row';
import { MaterialHead, Swatch, TextureRows } from './material-parts';
import { MATERIAL_FIELDS } from './specs';

function ToggleRow({ path, label, tip }: { path: string; label: string; tip: string }) {
  const { recipe, set } = useRecipe();
  const on = path.split('.').reduce<unknown>((v, k) => (v as Record<string, unknown>)?.[k], recipe) === true;
  return (
    <div className="flex min-h-[26px] items-center gap-2 pr-3 pl-4 hover:bg-raised">
      <Tip text={tip} side="left">
        <span className="flex-1">{label}</span>
      </Tip>
      <Toggle label={label} on={on} onChange={(v) => set(path, v)} />
    </div>
  );
}

/** All surfaces as grey clay, with exceptions that are clicked. */
function ClayRows() {
  const document = useDocument();
  const { recipe, set } = useRecipe();
  const { aim, begin } = useAim();
  if (!recipe) return null;
  const { clay } = recipe;
  const pick = () =>
    begin({
      by: 'clay',
      words: 'Click objects that are to keep their material, or to become clay again · Esc ends',
      take: (seen) => {
        const now = useRecipe.getState().recipe?.clay.except ?? [];
        if (seen.object)
          set('clay.except', now.includes(seen.object) ? now.filter((n) => n !== seen.object) : [...now, seen.object]);
        return true;
      },
    });
  return (
    <details open className="border-b border-line py-1">
      <summary className="cursor-pointer list-none px-3.5 py-1 font-semibold">Clay</summary>
      <ToggleRow
        path="clay.on"
        label="All surfaces in clay"
        tip="Everything in even grey, so that lights can be placed without being misled by surfaces."
      />
      {clay.on && (
        <>
          <div className="flex min-h-[26px] items-center gap-2 pr-3 pl-4">
            <span className="flex-1">Grey</span>
            <NumberField
              label="clay grey"
              value={clay.grey}
              step={0.02}
              width="w-[88px]"
              onChange={(v) => (v === null ? null : set('clay.grey', v))}
            />
          </div>
          <ToggleRow
            path="clay.keepEmission"
            label="What glows stays"
            tip="Glowing surfaces keep their material and their light."
          />
          <ToggleRow path="clay.keepGlass" label="Glass stays" tip="What lets light through keeps its material." />
          <ToggleRow
            path="clay.occlusion"
            label="Shaded by openness"
            tip="Shows how much of the sky each place sees, instead of the lights."
          />
          <ToggleRow
            path="clay.backs"
            label="Backs seen"
            tip="Without, one looks into closed rooms while their walls still block light."
          />
          <div className="flex min-h-[26px] items-center gap-2 pr-3 pl-4">
            <span className="flex-1">Exceptions</span>
            <NamesField
              label="exceptions of clay"
              none="none"
              value={clay.except}
              options={[
                ...Object.keys(document.sets),
                ...document.objects.map((o) => o.name),
                ...document.materials.map((m) => m.name),
              ]}
              onChange={(v) => set('clay.except', v)}
            />
            <Plain aria-pressed={aim?.by === 'clay'} onClick={pick}>
              {aim?.by === 'clay' ? 'Clicking' : 'Click'}
            </Plain>
          </div>
        </>
      )}
    </details>
  );
}

const SMALL_PX = 58;

/** Clay, and every material of the scene on a ball. */
export function SurfacesPart() {
  const document = useDocument();
  const { chosen, choose, edit } = useScene();
  const one = chosen.length === 1 && chosen[0].kind === 'material' ? chosen[0].name : null;
  const add = (surface: Material) => {
    let name = surface.name;
    edit(`add ${surface.name}`, (d) => {
      const added = addSurface(d, surface);
      name = added.name;
      return added.document;
    });
    choose([{ kind: 'material', name }]);
  };
  return (
    <div className="min-h-0 flex-1 overflow-y-auto" data-testid="surfaces-part">
      <ClayRows />
      <div className="grid grid-cols-6 gap-1.5 border-b border-line p-3">
        {document.materials.map((m) => (
          <button
            key={m.name}
            type="button"
            aria-pressed={one === m.name}
            title={m.name}
            onClick={() => choose([{ kind: 'material', name: m.name }])}
            className={`flex flex-col items-stretch ${one === m.name ? 'outline outline-2 outline-fill' : ''}`}
          >
            <Swatch material={m} size={SMALL_PX} />
            <span className="text-left text-[11px] leading-[13px] break-words">{m.name}</span>
          </button>
        ))}
      </div>
      <details className="border-b border-line py-1">
        <summary className="cursor-pointer list-none px-3.5 py-1 font-semibold">Add a surface to start from</summary>
        <div className="flex flex-wrap gap-1 px-3.5 pb-2">
          {STARTER_SURFACES.map((s) => (
            <Plain key={s.name} onClick={() => add(s)}>
              {s.name}
            </Plain>
          ))}
        </div>
      </details>
      {one && document.materials.some((m) => m.name === one) && (
        <>
          <MaterialHead document={document} name={one} />
          <Fields groups={MATERIAL_FIELDS} owners={[{ kind: 'material', name: one }]} document={document} />
          <TextureRows document={document} name={one} />
        </>
      )}
    </div>
  );
}
