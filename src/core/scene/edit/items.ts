import type { SceneDocument } from '../document/document';

/** Kinds of things that a document holds by name and that can be chosen. */
export type ItemKind = 'object' | 'light' | 'camera' | 'material' | 'set' | 'fog';
export interface ItemRef {
  kind: ItemKind;
  name: string;
}

const LIST_OF = { object: 'objects', light: 'lights', camera: 'cameras', material: 'materials', fog: 'fogs' } as const;

/** Names that a kind of item has. */
export function namesOf(document: SceneDocument, kind: ItemKind): string[] {
  return kind === 'set' ? Object.keys(document.sets) : document[LIST_OF[kind]].map((i) => i.name);
}

/**
 * `wanted`, or `wanted 2` and so on where that is taken. Objects, lights and sets share one space of names, since
 * links of lights and masks name any of them.
 */
export function freeName(document: SceneDocument, kind: ItemKind, wanted: string): string {
  const shared: ItemKind[] = ['object', 'light', 'set'];
  const kinds = shared.includes(kind) ? shared : [kind];
  const taken = new Set(kinds.flatMap((k) => namesOf(document, k)));
  const stem = wanted.replace(/ \d+$/, '').slice(0, 110) || kind;
  if (!taken.has(wanted) && wanted !== '') return wanted;
  for (let n = 2; ; n++) if (!taken.has(`${stem} ${n}`)) return `${stem} ${n}`;
}

/** What links to an item by name, renamed; `to` null takes links away. */
function relinked(document: SceneDocument, { kind, name }: ItemRef, to: string | null): SceneDocument {
  const one = (n: string | null) => (n === name ? to : n);
  const many = (list: string[]) => list.flatMap((n) => (n === name ? (to === null ? [] : [to]) : [n]));
  if (kind === 'material') {
    const rules = <T extends { secondaryMaterial?: string | null } | undefined>(r: T): T =>
      r?.secondaryMaterial === name ? { ...r, secondaryMaterial: to } : r;
    return {
      ...document,
      objects: document.objects.map((o) => ({
        ...o,
        material: o.material === name && to !== null ? to : o.material,
        rules: rules(o.rules),
      })),
      setRules: Object.fromEntries(Object.entries(document.setRules).map(([n, r]) => [n, rules(r)])),
    };
  }
  if (kind !== 'object' && kind !== 'set') return document;
  const controls = <T extends { include: string[] | null; exclude: string[] }>(c: T): T => ({
    ...c,
    include: c.include && many(c.include),
    exclude: many(c.exclude),
  });
  const { environment, fogs } = document;
  return {
    ...document,
    sets:
      kind === 'object'
        ? Object.fromEntries(Object.entries(document.sets).map(([n, members]) => [n, many(members)]))
        : document.sets,
    lights: document.lights.map((l) => {
      const linked = controls(l);
      if (kind === 'set') return linked;
      const follows = 'follow' in linked ? { follow: one(linked.follow) } : {};
      return { ...linked, parent: one(linked.parent), ...follows } as typeof l;
    }),
    materials: document.materials.map((m) => ({ ...m, light: controls(m.light) })),
    environment:
      environment?.kind === 'sky'
        ? { ...controls(environment), sun: controls(environment.sun) }
        : environment && controls(environment),
    fogs: kind === 'object' ? fogs.map((f) => ({ ...f, within: one(f.within) })) : fogs,
  };
}

/** The document with an item under another name, wherever it is named. Throws when the name is taken or empty. */
export function renamed(document: SceneDocument, item: ItemRef, to: string): SceneDocument {
  const wanted = to.trim();
  if (wanted === item.name) return document;
  if (wanted === '' || wanted.length > 120) throw new Error('a name has 1 to 120 characters');
  if (freeName(document, item.kind, wanted) !== wanted) throw new Error(`the name ${wanted} is taken`);
  const linked = relinked(document, item, wanted);
  if (item.kind === 'set') {
    const key = <T>(r: Record<string, T>) =>
      Object.fromEntries(Object.entries(r).map(([n, v]) => [n === item.name ? wanted : n, v]));
    return { ...linked, sets: key(linked.sets), setRules: key(linked.setRules) };
  }
  const list = LIST_OF[item.kind];
  return {
    ...linked,
    [list]: (linked[list] as { name: string }[]).map((i) => (i.name === item.name ? { ...i, name: wanted } : i)),
  };
}

/**
 * The document without some items. Throws where the last camera would go, or a material that objects still have.
 */
export function without(document: SceneDocument, items: readonly ItemRef[]): SceneDocument {
  let out = document;
  for (const item of items) {
    if (item.kind === 'camera' && out.cameras.length === 1) throw new Error('a shot needs a camera');
    if (item.kind === 'material') {
      const user = out.objects.find((o) => o.material === item.name);
      if (user) throw new Error(`${user.name} has the material ${item.name}; give it another first`);
    }
    out = relinked(out, item, null);
    if (item.kind === 'set') {
      const { [item.name]: _s, ...sets } = out.sets;
      const { [item.name]: _r, ...setRules } = out.setRules;
      out = { ...out, sets, setRules };
    } else {
      const list = LIST_OF[item.kind];
      out = { ...out, [list]: (out[list] as { name: string }[]).filter((i) => i.name !== item.name) };
    }
  }
  return withoutUnused(out);
}

/** Forms that no object has any more go with the last one. */
function withoutUnused(document: SceneDocument): SceneDocument {
  const used = new Set(document.objects.flatMap((o) => [o.mesh, ...(o.shapes ?? []).map((s) => s.mesh)]));
  const forms = document.forms.filter((f) => used.has(f.name));
  return forms.length === document.forms.length ? document : { ...document, forms };
}

/** Copies of objects and lights beside them. `linked` objects share their shape; others of a form get their own. */
export function copied(
  document: SceneDocument,
  items: readonly ItemRef[],
  linked: boolean,
): { document: SceneDocument; made: ItemRef[] } {
  let out = document;
  const made: ItemRef[] = [];
  for (const { kind, name } of items) {
    const to = freeName(out, kind, name);
    if (kind === 'object') {
      const object = out.objects.find((o) => o.name === name)!;
      const form = linked ? undefined : out.forms.find((f) => f.name === object.mesh);
      const mesh = form ? freeMesh(out, to) : object.mesh;
      out = {
        ...out,
        forms: form ? [...out.forms, { ...form, name: mesh }] : out.forms,
        objects: [...out.objects, { ...object, name: to, mesh }],
      };
    } else if (kind === 'light') {
      out = { ...out, lights: [...out.lights, { ...out.lights.find((l) => l.name === name)!, name: to }] };
    } else if (kind === 'camera') {
      out = { ...out, cameras: [...out.cameras, { ...out.cameras.find((c) => c.name === name)!, name: to }] };
    } else if (kind === 'material') {
      out = { ...out, materials: [...out.materials, { ...out.materials.find((m) => m.name === name)!, name: to }] };
    } else if (kind === 'fog') {
      out = { ...out, fogs: [...out.fogs, { ...out.fogs.find((f) => f.name === name)!, name: to }] };
    } else {
      out = { ...out, sets: { ...out.sets, [to]: [...out.sets[name]] } };
    }
    made.push({ kind, name: to });
  }
  return { document: out, made };
}

/** A mesh name that neither the geometry nor a form has. */
export function freeMesh(document: SceneDocument, wanted: string): string {
  const taken = new Set([...document.geometry.meshes, ...document.forms].map((m) => m.name));
  if (!taken.has(wanted)) return wanted;
  for (let n = 2; ; n++) if (!taken.has(`${wanted} ${n}`)) return `${wanted} ${n}`;
}
