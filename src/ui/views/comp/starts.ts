import { SHOWN } from '@/core/comp';

/** A stack to begin with. */
export interface Start {
  label: string;
  tip: string;
  entries: object[];
  pictures: Record<string, object>;
}

const layer = (name: string, more: object = {}) => ({
  kind: 'layer',
  source: { from: 'film', film: SHOWN, layer: name },
  ...more,
});
const partsOf = (kept: readonly string[], family: string) => kept.filter((n) => n.startsWith(`${family}.`));

/** What a stack over a film with these layers may begin as, over a plate where there is one. */
export function startsOf(kept: readonly string[], groups: readonly string[], plate: string | null): Start[] {
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
  const starts: Start[] = [picture, ...(parts.length > 1 ? [lights] : []), ...(classes.length > 1 ? [paths] : [])];
  if (plate === null) return starts;
  const shadow = kept.includes('shadow') ? [layer('shadow', { name: 'shadow on the plate' })] : [];
  return [
    {
      label: `Its light groups over ${plate}`,
      tip: 'The plate at the bottom, the shadow that catchers took on it, and the light groups as one layer over it.',
      entries: [
        { kind: 'layer', source: { from: 'picture', picture: plate } },
        ...shadow,
        { kind: 'nest', name: 'light', entries: parts.map((name) => layer(name)) },
      ],
      pictures: { [plate]: { file: plate } },
    },
    ...starts,
  ];
}
