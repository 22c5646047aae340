'use client';

import { type Path, type Source, shownIn } from '@/core/comp';
import { layerInfo, OPENNESS } from '@/core/film';
import { SPACE_NAMES, type Space, spaceOf } from '@/core/image';
import type { Mood } from '@/core/moods';
import type { Content } from '@/core/scene';
import { share } from '@/core/words';
import { Choice } from '../../fields/choice';
import { ColorField, type Rgb } from '../../fields/color-field';
import { Word } from '../../parts/controls';
import { useAsk } from '../../state/ask';
import { settle } from '../../state/history';
import { useMoods } from '../../state/moods-store';
import type { Stacked } from '../../state/stacking';
import { put, takeMood } from './actions';
import { FieldRow, StackField } from './field';
import { sayPrimaries } from './files';
import { LabelRow } from './label-row';
import type { NumberOf } from './operation-fields';
import { usePictureTick } from './use-figures';

interface Rows<S> {
  stacked: Stacked;
  source: S;
  /** Where the layer stands. */
  path: Path;
  name: string;
}
type From<K extends Source['from']> = Extract<Source, { from: K }>;

/** What can be set of where a layer's light comes from. */
export function SourceRows({ source, ...rest }: Rows<Source>) {
  if (source.from === 'solid') return <SolidRow source={source} {...rest} />;
  if (source.from === 'picture') return <PictureRows source={source} {...rest} />;
  if (Object.hasOwn(rest.stacked.over.files, source.film)) return <FileRows source={source} {...rest} />;
  return source.layer === OPENNESS.layer ? (
    <ReachRow source={source} {...rest} />
  ) : (
    <FilmRows source={source} {...rest} />
  );
}

function SolidRow({ stacked: { frame }, source, path, name }: Rows<From<'solid'>>) {
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
}

const REACH: NumberOf = {
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

function ReachRow({ stacked: { frame }, source, path, name }: Rows<From<'film'>>) {
  return (
    <FieldRow
      label="looks as far as"
      path={[...path, 'source', 'reachMetres']}
      value={source.reachMetres}
      frame={frame}
      name={name}
    >
      <StackField base={[...path, 'source']} settings={source} frame={frame} of={REACH} name={name} />
    </FieldRow>
  );
}

const NO_MOODS: readonly Mood[] = [];
const AS_RENDERED = ' ';

function FilmRows({ stacked: { frame }, source, path, name }: Rows<From<'film'>>) {
  const moods = useMoods((s) => s.moods?.list ?? NO_MOODS).map((m) => m.name);
  const { family } = layerInfo(source.layer);
  return (
    <>
      {moods.length > 0 && (family === 'beauty' || family === 'group') && (
        <LabelRow label="its light is">
          <Choice
            label={`mood of ${name}`}
            value={source.mood ?? AS_RENDERED}
            options={[
              { value: AS_RENDERED, label: 'as rendered' },
              ...moods.map((m) => ({ value: m, label: `as in ${m}` })),
            ]}
            onChange={(v) => takeMood(name, path, v === AS_RENDERED ? null : v)}
          />
        </LabelRow>
      )}
      <LabelRow label="the sky that is seen in it">
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
      </LabelRow>
    </>
  );
}

/** The space that is told of a file, as what is chosen without a word of one's own. */
const asTold = (told: string | null) => ({
  value: 'as the file says',
  label: told ? `as the file says: ${told}` : 'not told: Rec.709',
});

function FileRows({ stacked, source, path, name }: Rows<From<'film'>>) {
  const { over, stack, frame } = stacked;
  const { film } = source;
  return (
    <>
      <LabelRow label={`primaries of ${film}`}>
        <Choice
          label={`primaries of ${film}`}
          value={stack.spaces[film] ?? 'as the file says'}
          options={[asTold(primariesTold(over.files[film].content)), ...SPACE_NAMES]}
          onChange={(v) => sayPrimaries(film, v === 'as the file says' ? null : v)}
        />
      </LabelRow>
      <Mistaken stacked={stacked} source={source} take={(space) => sayPrimaries(film, space)} />
      <LabelRow label="its alpha">
        <Choice
          label={`alpha of ${name}`}
          value={source.alpha}
          options={[
            { value: 'of the film', label: 'as it is' },
            { value: 'whole', label: 'hides what is below' },
            { value: 'cut', label: 'is cut out by it' },
          ]}
          onChange={(v) => put(`alpha of ${name}`, [...path, 'source', 'alpha'], v, frame, false)}
        />
      </LabelRow>
    </>
  );
}

/** Says that light looks as if it were in another space than it is taken for, by what A shows of the same; one click takes it so. */
function Mistaken({
  stacked: { over, stack },
  source,
  take,
}: {
  stacked: Stacked;
  source: Source;
  take: (space: Space) => void;
}) {
  const shown = shownIn(stack)[0];
  const tick = usePictureTick();
  // Nothing else that is in the stack changes the answer.
  const bare = { ...over, stack: { ...stack, entries: [] }, lookedAt: null };
  const asked = shown === undefined ? null : { over: bare, source, shown };
  const { answer } = useAsk('stackTag', asked, { of: tick, afterMs: 600 });
  if (!answer) return null;
  return (
    <p className="flex items-baseline gap-1 py-0.5 text-[11.5px] text-soft" role="status">
      <span className="flex-1">
        Held against A it looks like {answer.space}: colours {share(answer.left)} off, not {share(answer.before)}.
      </span>
      <Word className="!px-0 whitespace-nowrap underline" onClick={() => take(answer.space)}>
        take it as {answer.space}
      </Word>
    </p>
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

/** The space that a picture's file tells, in words; null where it tells none. */
function primariesTold(content: Content | null | undefined): string | null {
  if (!content?.primaries) return null;
  return spaceOf(content.primaries) ?? 'primaries of its own';
}

function PictureRows({ stacked, source, name }: Rows<From<'picture'>>) {
  const { frame, stack, over } = stacked;
  const picture = stack.pictures[source.picture];
  const told = primariesTold(over.contents[source.picture]);
  if (!picture) return null;
  const base = ['pictures', source.picture];
  const choose = (
    key: readonly string[],
    label: string,
    value: string,
    options: readonly (string | { value: string; label: string })[],
  ) => (
    <LabelRow label={label}>
      <Choice
        label={`${label} of ${name}`}
        value={value}
        options={options}
        onChange={(v) => put(`${label} of ${name}: ${v}`, [...base, ...key], v, frame, false)}
      />
    </LabelRow>
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
      {choose(['space'], 'its primaries are', picture.space, [asTold(told), ...SPACE_NAMES])}
      <Mistaken
        stacked={stacked}
        source={source}
        take={(space) => put(`primaries of ${name}: ${space}`, [...base, 'space'], space, frame, false)}
      />
      {choose(['alpha'], 'its alpha is', picture.alpha, [
        'as the file says',
        'straight',
        'premultiplied',
        { value: 'none', label: 'of no account' },
      ])}
    </>
  );
}
