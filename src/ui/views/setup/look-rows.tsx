'use client';

import { PLAIN_LOOK, type SceneDocument } from '@/core/scene';
import { CurveField } from '../../fields/curve-field';
import { Tip, Word } from '../../parts/controls';
import { settle } from '../../state/history';
import { useScene } from '../../state/scene-store';
import { Fields } from './field-row';
import { LOOK_FIELDS } from './specs';

const OWNER = [{ kind: 'look' as const, name: 'look' }];

/** White point, contrast, shoulder and a curve, which noise figures weigh by too. */
export function LookRows({ document }: { document: SceneDocument }) {
  const { look } = document;
  const plain = JSON.stringify(look) === JSON.stringify(PLAIN_LOOK);
  return (
    <>
      <Fields
        groups={LOOK_FIELDS}
        owners={OWNER}
        document={document}
        beside={{
          Look: (
            <Word
              disabled={plain}
              onClick={(e) => {
                e.preventDefault();
                useScene.getState().edit('plain look', (d) => ({ ...d, look: PLAIN_LOOK }));
              }}
            >
              Plain
            </Word>
          ),
        }}
      />
      <div className="flex items-center gap-2 border-b border-line py-1 pr-3 pl-4">
        <Tip
          side="left"
          text="Curve on display values: click to add a point, drag it, double-click takes it away. The look is part of the display transform that noise is weighed by."
        >
          <span className="flex-1">Curve</span>
        </Tip>
        <CurveField
          label="curve"
          value={look.curve}
          most={8}
          onChange={(curve, drag) =>
            useScene.getState().setField(OWNER, 'curve', curve, drag ? 'look curve' : undefined)
          }
          onSettled={settle}
        />
      </div>
    </>
  );
}
