'use client';

import { type Entry, type Operation, type Path, WAYS } from '@/core/comp';
import { OPENNESS } from '@/core/film';
import { Choice } from '../../fields/choice';
import { ColorField, type Rgb } from '../../fields/color-field';
import { CurveField } from '../../fields/curve-field';
import { Word } from '../../parts/controls';
import { settle } from '../../state/history';
import type { Stacked } from '../../state/stacking';
import { put, remove } from './actions';
import { OperationMenu } from './add-menu';
import { FieldRow, StackField, StackNumber } from './field';
import { MaskRows } from './mask-rows';
import { type NumberOf, OPERATIONS } from './operation-fields';
import { PickFromPicture } from './pick';
import { OPACITY } from './sentence';
import { OPERATION_NAMES, ownWay, WAY_SAYS } from './words';

/** All that can be set of an entry, beneath its sentence. */
export function EntryDetails({
  stacked,
  entry,
  path,
  name,
}: {
  stacked: Stacked;
  entry: Entry;
  path: Path;
  name: string;
}) {
  const { frame } = stacked;
  return (
    <div className="space-y-0.5 pt-0.5 pr-3 pb-2 pl-11 text-[12px]" data-testid="entry-details">
      {entry.kind === 'operation' ? (
        <>
          <OperationRows stacked={stacked} operation={entry.operation} base={[...path, 'operation']} />
          <FieldRow label="opacity of it" path={[...path, 'opacity']} value={entry.opacity} frame={frame} name={name}>
            <StackNumber path={[...path, 'opacity']} value={entry.opacity} frame={frame} of={OPACITY} name={name} />
            <span className="text-soft">%</span>
          </FieldRow>
        </>
      ) : (
        <LayerRows stacked={stacked} entry={entry} path={path} name={name} />
      )}
      <MaskRows stacked={stacked} mask={entry.mask} path={path} />
    </div>
  );
}

function LayerRows({
  stacked,
  entry,
  path,
  name,
}: {
  stacked: Stacked;
  entry: Exclude<Entry, { kind: 'operation' }>;
  path: Path;
  name: string;
}) {
  const { frame } = stacked;
  const own = ownWay(entry);
  return (
    <>
      <FieldRow label="at" path={[...path, 'opacity']} value={entry.opacity} frame={frame} name={name}>
        <StackNumber path={[...path, 'opacity']} value={entry.opacity} frame={frame} of={OPACITY} name={name} />
        <span className="text-soft">%</span>
      </FieldRow>
      <div className="flex min-h-[24px] items-center gap-2">
        <span className="flex-1 text-soft">it</span>
        <Choice
          label={`how ${name} joins`}
          value={entry.way}
          options={[
            { value: 'by itself', label: own ? `${WAY_SAYS[own]}, as it does by itself` : 'never shows by itself' },
            ...WAYS.filter((w) => w !== own).map((w) => ({ value: w, label: WAY_SAYS[w] })),
          ]}
          onChange={(way) => put(`${name}: ${way}`, [...path, 'way'], way, frame, false)}
        />
      </div>
      {entry.kind === 'layer' && <SourceRows entry={entry} path={path} name={name} stacked={stacked} />}
      {entry.operations.map((operation, i) => {
        const base = [...path, 'operations', i];
        const said = OPERATION_NAMES[operation.does];
        return (
          <div key={i} className="border-t border-line pt-0.5">
            <div className="flex items-center gap-2">
              <span className="flex-1">its {said}</span>
              <Word className="!px-0 text-[11px]" onClick={() => remove(`${said} of ${name}`, base)}>
                take away
              </Word>
            </div>
            <OperationRows stacked={stacked} operation={operation} base={base} />
          </div>
        );
      })}
      <OperationMenu
        stacked={stacked}
        place={{ list: [...path, 'operations'], index: entry.operations.length }}
        own
        trigger={<Word className="!px-0 underline">do something to {name} alone</Word>}
      />
    </>
  );
}

const placing = (at: string, label: string, unit: string, limits: [number, number, number], per = 1): NumberOf => ({
  kind: 'number',
  at: ['place', at],
  label,
  unit,
  least: limits[0],
  most: limits[1],
  step: limits[2],
  per,
});
const PLACING = [
  placing('x', 'moved right', '%', [-1000, 1000, 0.5], 0.01),
  placing('y', 'moved down', '%', [-1000, 1000, 0.5], 0.01),
  placing('scale', 'larger', '%', [0.1, 100000, 1], 0.01),
  placing('turnDegrees', 'turned', '°', [-3600, 3600, 0.5]),
];

/** What can be set of where a layer's light comes from. */
function SourceRows({
  stacked,
  entry,
  path,
  name,
}: {
  stacked: Stacked;
  entry: Extract<Entry, { kind: 'layer' }>;
  path: Path;
  name: string;
}) {
  const { frame, stack } = stacked;
  const { source } = entry;
  if (source.from === 'solid')
    return (
      <FieldRow label="colour" path={[...path, 'source', 'rgb']} value={source.rgb} frame={frame} name={name}>
        <ColorField
          compact
          label={`colour of ${name}`}
          value={source.rgb as Rgb}
          onChange={(v, drag) => put(`colour of ${name}`, [...path, 'source', 'rgb'], v, frame, drag)}
          onSettled={settle}
        />
      </FieldRow>
    );
  const reach: NumberOf = {
    kind: 'number',
    at: ['reachMetres'],
    label: 'reach',
    unit: 'm',
    step: 0.1,
    least: 0.01,
    most: 1e6,
    per: 1,
    off: 'all',
  };
  if (source.from === 'film' && source.layer === OPENNESS.layer)
    return (
      <FieldRow
        label="looks as far as"
        path={[...path, 'source', 'reachMetres']}
        value={source.reachMetres}
        frame={frame}
        name={name}
      >
        <StackField base={[...path, 'source']} settings={source} frame={frame} of={reach} name={name} />
      </FieldRow>
    );
  if (source.from === 'film')
    return (
      <div className="flex min-h-[24px] items-center gap-2">
        <span className="flex-1 text-soft">the sky that is seen in it</span>
        <Choice
          label={`sky of ${name}`}
          value={source.alpha}
          options={[
            { value: 'of the film', label: 'is light before what is below' },
            { value: 'whole', label: 'hides what is below' },
            { value: 'cut', label: 'is cut out' },
          ]}
          onChange={(v) => put(`sky of ${name}`, [...path, 'source', 'alpha'], v, frame, false)}
        />
      </div>
    );
  const picture = stack.pictures[source.picture];
  if (!picture) return null;
  const base = ['pictures', source.picture];
  const choose = (
    key: readonly string[],
    label: string,
    value: string,
    options: readonly (string | { value: string; label: string })[],
  ) => (
    <div className="flex min-h-[24px] items-center gap-2">
      <span className="flex-1 text-soft">{label}</span>
      <Choice
        label={`${label} of ${name}`}
        value={value}
        options={options}
        onChange={(v) => put(`${label} of ${name}: ${v}`, [...base, ...key], v, frame, false)}
      />
    </div>
  );
  return (
    <>
      {choose(['place', 'fit'], 'in the frame', picture.place.fit, [
        { value: 'fill', label: 'covers it' },
        { value: 'inside', label: 'fits into it' },
        { value: 'stretch', label: 'is stretched to it' },
        { value: 'pixels', label: 'pixel for pixel' },
      ])}
      {PLACING.map((of) => (
        <FieldRow
          key={of.label}
          label={of.label}
          path={[...base, ...of.at]}
          value={picture.place[of.at[1] as 'x']}
          frame={frame}
          name={name}
        >
          <StackField base={base} settings={picture} frame={frame} of={of} name={name} />
        </FieldRow>
      ))}
      {choose(['encoding'], 'its bytes are', picture.encoding, [
        { value: 'srgb', label: 'encoded as sRGB' },
        { value: 'linear', label: 'linear light' },
      ])}
      {choose(['alpha'], 'its alpha is', picture.alpha, [
        'as the file says',
        'straight',
        'premultiplied',
        { value: 'none', label: 'of no account' },
      ])}
    </>
  );
}

const CHANNELS = [
  { at: 'all', color: '#ececec' },
  { at: 'red', color: '#e08a7a' },
  { at: 'green', color: '#8cc08c' },
  { at: 'blue', color: '#8aa8e0' },
] as const;

/** What else can be set of an operation. */
function OperationRows({ stacked, operation, base }: { stacked: Stacked; operation: Operation; base: Path }) {
  const { frame, stack } = stacked;
  const name = OPERATION_NAMES[operation.does];
  const { sentence, more = [] } = OPERATIONS[operation.does];
  const fields = [...sentence.filter((p) => typeof p !== 'string'), ...more];
  return (
    <>
      {fields.map((of) => (
        <FieldRow
          key={of.at.join('.')}
          label={of.label}
          path={[...base, ...of.at]}
          value={of.at.reduce<unknown>((v, k) => Object(v)[k], operation)}
          frame={frame}
          name={name}
        >
          <StackField base={base} settings={operation} frame={frame} of={of} name={name} />
        </FieldRow>
      ))}
      {operation.does === 'curves' && (
        <div className="grid grid-cols-2 gap-1.5 py-1">
          {CHANNELS.map(({ at, color }) => (
            <CurveField
              key={at}
              label={`curve of ${at}`}
              value={operation[at]}
              most={16}
              side={148}
              color={color}
              onChange={(points, drag) => put(`curve of ${at}`, [...base, at], points, frame, drag)}
              onSettled={settle}
            />
          ))}
        </div>
      )}
      {operation.does === 'table' && (
        <>
          <div className="flex min-h-[24px] items-center gap-2">
            <span className="flex-1 text-soft">light goes into it</span>
            <Choice
              label="encoding of the look table"
              value={operation.encoding}
              options={[
                { value: 'srgb', label: 'encoded as sRGB' },
                { value: 'linear', label: 'linear' },
              ]}
              onChange={(v) => put(`look table: ${v}`, [...base, 'encoding'], v, frame, false)}
            />
          </div>
          <div className="flex min-h-[24px] items-center gap-2">
            <span className="flex-1 text-soft">table</span>
            <Choice
              label="look table"
              value={operation.table}
              options={Object.keys(stack.tables)}
              onChange={(v) => put(`look table ${v}`, [...base, 'table'], v, frame, false)}
            />
          </div>
        </>
      )}
      {(operation.does === 'white' || operation.does === 'focus') && (
        <PickFromPicture stacked={stacked} does={operation.does} base={base} />
      )}
    </>
  );
}
