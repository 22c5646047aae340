import { MOST_GROUPS, type SceneDocument } from '../document/document';
import { glowsOf, namedGroups, UNASSIGNED } from '../document/light-groups';

/** A source of light whose group can be chosen: a light, the environment, its sun, or what glows with one shape and material. */
export interface LightSource {
  kind: 'light' | 'environment' | 'sun' | 'glow';
  /** Light or first object; `environment` and `sun` otherwise. */
  name: string;
  group: string;
  on: boolean;
  /** What it is made of, each `kind name`: copies of one another are one source. */
  members: string[];
}

/** Light groups by member of a source. */
export type Grouping = ReadonlyMap<string, string>;

const stem = (name: string) => name.replace(/[\s._-]*\d+$/, '');

type Light = SceneDocument['lights'][number];

/** What copies of a light have in common: all but name, place, direction and group. */
function likeness(light: Light): string {
  const { name, group: _group, ...rest } = light;
  return JSON.stringify({ ...rest, position: 0, facing: 0, up: 0, motion: 0, parent: 0, stem: stem(name) });
}

/** All sources of light of a document, in order: lights, sun, environment, what glows. Copies are one source while they share a group. */
export function lightSources(document: SceneDocument): LightSource[] {
  const out = new Map<string, LightSource>();
  const add = (like: string, source: Omit<LightSource, 'members'>) => {
    const key = JSON.stringify([source.kind, source.group, like]);
    const known = out.get(key) ?? { ...source, members: [] };
    known.members.push(`${source.kind} ${source.name}`);
    known.on ||= source.on;
    out.set(key, known);
  };
  for (const { name, group, on, ...l } of document.lights)
    add(likeness({ name, group, on, ...l }), { kind: 'light', name, group, on });
  const { environment } = document;
  if (environment?.kind === 'sky') {
    const { group, on } = environment.sun;
    add('', { kind: 'sun', name: 'sun', group, on });
  }
  if (environment) {
    const { group, on } = environment;
    add('', { kind: 'environment', name: 'environment', group, on });
  }
  const materials = new Map(document.materials.map((m) => [m.name, m]));
  for (const { object, material, group } of glowsOf(document)) {
    const { name, mesh } = document.objects[object];
    add(JSON.stringify([material, mesh]), { kind: 'glow', name, group, on: materials.get(material)!.light.on });
  }
  return [...out.values()];
}

/**
 * The document with members of sources in other light groups. Objects have a group of their own only where what shares
 * their material is in several. The document's own order of groups stays, without those that have no source, new ones behind.
 */
export function withGroups(document: SceneDocument, groups: Grouping): SceneDocument {
  const glows = new Map(
    glowsOf(document).map(({ object, material, group }) => [
      object,
      { material, group: groups.get(`glow ${document.objects[object].name}`) ?? group },
    ]),
  );
  /** The group of all that glows by a material; null where they are several. */
  const shared = new Map<string, string | null>();
  for (const { material, group } of glows.values())
    shared.set(material, (shared.get(material) ?? group) === group && shared.get(material) !== null ? group : null);
  const { environment } = document;
  const around = environment && { ...environment, group: groups.get('environment environment') ?? environment.group };
  const moved: SceneDocument = {
    ...document,
    lights: document.lights.map((l) => ({ ...l, group: groups.get(`light ${l.name}`) ?? l.group })),
    environment:
      around?.kind === 'sky'
        ? { ...around, sun: { ...around.sun, group: groups.get('sun sun') ?? around.sun.group } }
        : around,
    materials: document.materials.map((m) => ({ ...m, light_group: shared.get(m.name) ?? m.light_group })),
    objects: document.objects.map((o, i) => {
      const glow = glows.get(i);
      if (!glow) return o;
      const { lightGroup: _own, ...rest } = o;
      return shared.get(glow.material) === null ? { ...rest, lightGroup: glow.group } : rest;
    }),
  };
  const own = document.groups;
  if (!own) return moved;
  const named = namedGroups(moved);
  const kept = [...own.filter((g) => named.includes(g)), ...named.filter((g) => !own.includes(g))];
  return { ...moved, groups: kept.length <= MOST_GROUPS ? kept : undefined };
}

/** A name as the name of a light group: small letters, digits and underscores. */
export function groupNameOf(name: string): string {
  return (
    name
      .toLowerCase()
      .normalize('NFD')
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^_+|_+$/g, '')
      .slice(0, 36) || 'light'
  );
}

/** A light group for every source, named for it; copies stay together. */
export function groupForEach(document: SceneDocument): Grouping {
  const members = lightSources(document).flatMap((s) => s.members);
  const joined = withGroups(document, new Map(members.map((m) => [m, UNASSIGNED])));
  const taken = new Set<string>([UNASSIGNED]);
  return new Map(
    lightSources(joined).flatMap((s) => {
      const wanted = groupNameOf(s.kind === 'environment' ? 'sky' : s.members.length > 1 ? stem(s.name) : s.name);
      let group = wanted;
      for (let n = 2; taken.has(group); n++) group = `${wanted}_${n}`;
      taken.add(group);
      return s.members.map((m): [string, string] => [m, group]);
    }),
  );
}

/** A light group for every set that has a light, what carries one, or what glows; all else stays where it is. */
export function groupForEachSet(document: SceneDocument): Grouping {
  const out = new Map<string, string>();
  for (const [set, names] of Object.entries(document.sets)) {
    const has = (name: string | null | undefined) => typeof name === 'string' && names.includes(name);
    for (const l of document.lights)
      if (has(l.name) || has(l.parent) || ('follow' in l && has(l.follow)))
        out.set(`light ${l.name}`, groupNameOf(set));
    for (const { object } of glowsOf(document)) {
      const { name } = document.objects[object];
      if (has(name)) out.set(`glow ${name}`, groupNameOf(set));
    }
  }
  return out;
}

/**
 * Groups to keep together as unassigned light so that a film can keep all: the quietest by their share of the light.
 * Empty when they fit.
 */
export function quietestOver(groups: readonly string[], shareOf: (group: string) => number): string[] {
  if (groups.length <= MOST_GROUPS) return [];
  const named = groups.filter((g) => g !== UNASSIGNED);
  return [...named].sort((a, b) => shareOf(a) - shareOf(b)).slice(0, named.length - (MOST_GROUPS - 1));
}
