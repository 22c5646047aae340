import { NO_STACK, SHOWN, type StackDocument } from '@/core/comp';
import { SHOT_STACKS } from '@/core/shots';

/** A stack to begin with. */
export interface Start {
  label: string;
  tip: string;
  stack: StackDocument;
}

const layer = (name: string, more: object = {}, alpha = 'of the film') => ({
  kind: 'layer',
  source: { from: 'film', film: SHOWN, layer: name, alpha },
  ...more,
});
const partsOf = (kept: readonly string[], family: string) => kept.filter((n) => n.startsWith(`${family}.`));

const begun = ({
  label,
  tip,
  ...stack
}: {
  label: string;
  tip: string;
  entries: object[];
  pictures: object;
}): Start => ({
  label,
  tip,
  stack: { ...NO_STACK, ...stack },
});

/** What a stack over a film with these layers may begin as, over a plate where there is one. */
export function startsOf(
  kept: readonly string[],
  groups: readonly string[],
  plate: string | null,
  shot: string,
  isSkySeen: boolean,
): Start[] {
  const parts = groups.map((g) => `group.${g}`);
  const picture = { label: 'The picture', tip: 'The beauty, to grade.', entries: [layer('beauty')], pictures: {} };
  const lights = {
    label: 'Its light groups',
    tip: 'Every light group as a layer: they add up to the picture.',
    entries: parts.map((name) => layer(name)),
    pictures: {},
  };
  const classes = partsOf(kept, 'class');
  const paths = {
    label: 'Its path classes',
    tip: 'Every path class as a layer: they add up to the picture.',
    entries: classes.map((name) => layer(name)),
    pictures: {},
  };
  const example = Object.hasOwn(SHOT_STACKS, shot)
    ? [
        {
          label: 'An example',
          tip: 'A finished stack over this shot, to take apart.',
          stack: SHOT_STACKS[shot] as StackDocument,
        },
      ]
    : [];
  const starts = [picture, ...(parts.length > 1 ? [lights] : []), ...(classes.length > 1 ? [paths] : [])].map(begun);
  if (plate === null) return [...starts, ...example];
  const shadow = kept.includes('shadow') ? [layer('shadow', { name: 'shadow on the plate' })] : [];
  return [
    begun({
      label: `Its light groups over ${plate}`,
      tip: 'The plate at the bottom, the shadow that catchers took on it, and the light groups as one layer over it.',
      entries: [
        { kind: 'layer', source: { from: 'picture', picture: plate } },
        ...shadow,
        {
          kind: 'nest',
          name: 'light',
          entries: parts.map((name) => layer(name, {}, isSkySeen ? 'cut' : 'of the film')),
        },
      ],
      pictures: { [plate]: { file: plate } },
    }),
    ...starts,
    ...example,
  ];
}
