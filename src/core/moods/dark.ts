import { glowsOf, groupNumber, lightGroups, partOf, type SceneDocument, withOuter } from '../scene';

/** A source of light as far as it can be dark by itself. */
interface Source {
  on: boolean;
  strength: number;
  color: readonly number[];
}

function sourcesOf(document: SceneDocument, group: string): Source[] {
  const groups = lightGroups(document);
  const isOf = (name: string) =>
    withOuter(partOf(groups[groupNumber(groups, name)]).group).includes(partOf(group).group);
  const { environment } = document;
  const glowing = new Set(glowsOf(document).flatMap((g) => (isOf(g.group) ? [g.material] : [])));
  return [
    ...document.lights.filter((l) => isOf(l.group)).map((l) => ({ on: l.on, strength: l.power, color: l.color })),
    ...(environment && isOf(environment.group)
      ? [
          {
            on: environment.on,
            strength: environment.kind === 'picture' ? environment.scale : 1,
            color: environment.kind === 'gradient' ? lightest(environment) : environment.tint,
          },
        ]
      : []),
    ...(environment?.kind === 'sky' && isOf(environment.sun.group)
      ? [
          {
            on: environment.sun.on,
            strength: environment.sun.heightDegrees + environment.sun.angleDegrees / 2 > 0 ? 1 : 0,
            color: environment.sun.tint,
          },
        ]
      : []),
    ...document.materials
      .filter((m) => glowing.has(m.name))
      .map((m) => ({ on: m.light.on, strength: m.emission_luminance, color: m.emission_color })),
  ];
}

type Gradient = Extract<NonNullable<SceneDocument['environment']>, { kind: 'gradient' }>;
const lightest = ({ zenith, horizon, ground, moon, tint }: Gradient): number[] =>
  tint.map((t, c) => t * Math.max(zenith[c], horizon[c], ground[c], moon ? moon.luminance * moon.color[c] : 0));

/** Why a light group is black by itself, in words with what to do; null where its sources give light, so that none of it is seen. */
export function whyDark(document: SceneDocument, group: string): string | null {
  const sources = sourcesOf(document, group);
  if (sources.length === 0) return 'no light of the scene is in it';
  const on = sources.filter((s) => s.on);
  if (on.length === 0) return 'its lights are switched off: Set-up switches them on';
  if (on.every((s) => s.strength === 0)) return 'its lights have no strength: Set-up gives it';
  if (on.every((s) => s.strength === 0 || s.color.every((c) => c === 0)))
    return 'the colour of its lights is black: Set-up has it';
  return null;
}
