'use client';

import { type Entry, OF_FILE, type Operation, type Path, SHOWN, shownIn, TABLE_ENCODINGS, WAYS } from '@/core/comp';
import { share } from '@/core/words';
import { Choice } from '../../fields/choice';
import { CurveField } from '../../fields/curve-field';
import { Word } from '../../parts/controls';
import { useAsk } from '../../state/ask';
import { settle, together } from '../../state/history';
import { useDocument } from '../../state/scene-now';
import type { Stacked } from '../../state/stacking';
import { actedOn } from './acted-on';
import { put, remove } from './actions';
import { OperationMenu } from './add-menu';
import { FieldRow, StackField, StackNumber } from './field';
import { dataOf, filesOf, filmOfFile } from './files';
import { LabelRow } from './label-row';
import { MaskRows } from './mask-rows';
import { ENCODING_WORDS, OPERATIONS } from './operation-fields';
import { PickFromPicture } from './pick';
import { OPACITY } from './sentence';
import { SourceRows } from './source-rows';
import { usePictureTick } from './use-figures';
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
      <LabelRow label="it">
        <Choice
          label={`how ${name} joins`}
          value={entry.way}
          options={[
            { value: 'by itself', label: own ? `${WAY_SAYS[own]}, as it does by itself` : 'never shows by itself' },
            ...WAYS.filter((w) => w !== own).map((w) => ({ value: w, label: WAY_SAYS[w] })),
          ]}
          onChange={(way) => put(`${name}: ${way}`, [...path, 'way'], way, frame, false)}
        />
      </LabelRow>
      {entry.kind === 'layer' && <SourceRows source={entry.source} path={path} name={name} stacked={stacked} />}
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
      {(operation.does === 'focus' || operation.does === 'haze') && (
        <DepthRow stacked={stacked} film={operation.film} layer={operation.layer} base={base} />
      )}
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
          <TableCut stacked={stacked} operation={operation} base={base} />
          <LabelRow label="light goes into it">
            <Choice
              label="encoding of the look table"
              value={operation.encoding}
              options={TABLE_ENCODINGS.map((e) => ({ value: e, label: ENCODING_WORDS[e] }))}
              onChange={(v) => put(`look table: ${v}`, [...base, 'encoding'], v, frame, false)}
            />
          </LabelRow>
          <LabelRow label="table">
            <Choice
              label="look table"
              value={operation.table}
              options={Object.keys(stack.tables)}
              onChange={(v) => put(`look table ${v}`, [...base, 'table'], v, frame, false)}
            />
          </LabelRow>
        </>
      )}
      {(operation.does === 'white' || operation.does === 'focus') && (
        <PickFromPicture stacked={stacked} does={operation.does} base={base} />
      )}
    </>
  );
}

/** What a look table cuts of what it is given, where it cuts anything. */
function TableCut({
  stacked: { over },
  operation: { table, encoding },
  base,
}: {
  stacked: Stacked;
  operation: Extract<Operation, { does: 'table' }>;
  base: Path;
}) {
  const tick = usePictureTick();
  const given = { ...over, stack: actedOn(over.stack, base) };
  const { answer } = useAsk('stackCut', { over: given, table, encoding }, { of: tick, afterMs: 600, keep: true });
  return answer ? (
    <p className="py-0.5 text-[11.5px] text-soft" role="status">
      {share(answer)} of the values lie beyond its ends, and are cut there.
    </p>
  ) : null;
}

/** Which layer tells how far away things are, where there is more than one. */
function DepthRow({ stacked, film, layer, base }: { stacked: Stacked; film: string; layer: string; base: Path }) {
  const { stack, frame } = stacked;
  const files = filesOf(useDocument());
  const own = shownIn(stack)[0] ?? SHOWN;
  const choices = [
    { value: 'A', label: 'of A', film: () => own, layer: 'depth' },
    ...files.flatMap((file) =>
      dataOf(file).map((data) => ({
        value: `${OF_FILE}${file.name} ${data.layer}`,
        label: `${data.layer} of ${file.name}`,
        film: () => filmOfFile(file.name),
        layer: data.layer,
      })),
    ),
  ];
  if (choices.length < 2) return null;
  return (
    <LabelRow label="by the distances">
      <Choice
        label="distances"
        value={film === own ? 'A' : `${stack.films[film]} ${layer}`}
        options={choices}
        onChange={(v) => {
          const chosen = choices.find((c) => c.value === v)!;
          together(`distances ${chosen.label}`, () => {
            const name = chosen.film();
            put('distances', [...base, 'film'], name, frame, false);
            put('distances', [...base, 'layer'], chosen.layer, frame, false);
          });
        }}
      />
    </LabelRow>
  );
}
