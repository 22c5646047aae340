'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { type Fog, fogSchema, freeName, MOST_FOGS, renamed, type SceneDocument, without } from '@/core/scene';
import { Tip, Word } from '../../parts/controls';
import { NameDialog } from '../../parts/name-dialog';
import { useScene } from '../../state/scene-store';
import { Fields } from './field-row';
import { FOG_FIELDS } from './specs';

const { edit } = useScene.getState();

/** Thin where the whole scene has it; what comes after it is thought of as a bank within an object. */
const START = { density: 0.05, anisotropy: 0.3 };

function added(document: SceneDocument): SceneDocument {
  const name = freeName(document, 'fog', 'fog');
  return { ...document, fogs: [...document.fogs, fogSchema.parse({ ...START, name })] };
}

/** Fields of one fog, under its name. */
function OneFog({ fog: { name }, document }: { fog: Fog; document: SceneDocument }) {
  const [naming, setNaming] = useState(false);
  const own = { kind: 'fog' as const, name };
  return (
    <>
      <Fields
        groups={FOG_FIELDS.map((group) => ({ ...group, title: name }))}
        owners={[own]}
        document={document}
        beside={{
          [name]: (
            <span className="flex gap-3">
              <Word onClick={() => setNaming(true)}>Rename</Word>
              <Word onClick={() => edit(`no ${name}`, (d) => without(d, [own]))}>Take away</Word>
            </span>
          ),
        }}
      />
      {naming && (
        <NameDialog
          title={`Rename ${name}`}
          label="name of the fog"
          action="Rename"
          initial={name}
          most={120}
          onName={(to) => {
            const fault = edit(`rename ${name}`, (d) => renamed(d, own, to));
            if (fault) toast.error(fault);
            else setNaming(false);
          }}
          onClose={() => setNaming(false)}
        />
      )}
    </>
  );
}

/** Fogs of the shot: all around, or each within an object. */
export function Fogs({ document }: { document: SceneDocument }) {
  const { fogs } = document;
  return (
    <>
      {fogs.map((fog) => (
        <OneFog key={fog.name} fog={fog} document={document} />
      ))}
      {fogs.length < MOST_FOGS && (
        <div className="flex items-center gap-2 border-b border-line px-4 py-2">
          {fogs.length === 0 ? (
            <span className="flex-1 font-semibold">Fog</span>
          ) : (
            <Tip text="Each in an object of its own, or everywhere. Where fogs overlap they are as dense as all of them together.">
              <span className="flex-1 text-dim">Fogs add up where they overlap.</span>
            </Tip>
          )}
          <Word onClick={() => edit('fog', added)}>{fogs.length === 0 ? 'Add fog' : 'Add another'}</Word>
        </div>
      )}
    </>
  );
}
