import { GltfError } from './error';

interface StructureJson {
  buffers?: { byteLength?: number; uri?: string }[];
  bufferViews?: { buffer?: number; byteOffset?: number; byteLength?: number; byteStride?: number }[];
  accessors?: { bufferView?: number; byteOffset?: number; componentType?: number; type?: string; count?: number }[];
  nodes?: { children?: number[] }[];
}

const COMPONENT_BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const COMPONENTS: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };

/** Most bytes of values that are zeros since they lie nowhere. */
const MOST_ZEROS = 1 << 26;

const isCount = (n: unknown): n is number => typeof n === 'number' && Number.isInteger(n) && n >= 0;

function checkLists(json: StructureJson): void {
  for (const key of ['buffers', 'bufferViews', 'accessors', 'nodes'] as const) {
    const list = json[key];
    if (list === undefined) continue;
    if (!Array.isArray(list)) throw new GltfError(`${key} is no list`);
    list.forEach((entry, i) => {
      if (typeof entry !== 'object' || entry === null) throw new GltfError(`${key} ${i} is no object`);
    });
  }
}

function checkViews({ buffers = [], bufferViews = [] }: StructureJson, binaryBytes: number): void {
  bufferViews.forEach((v, i) => {
    const buffer = buffers[v.buffer ?? -1];
    if (!buffer) throw new GltfError(`buffer view ${i}: there is no buffer ${v.buffer}`);
    const from = v.byteOffset ?? 0;
    if (!isCount(from) || !isCount(v.byteLength)) throw new GltfError(`buffer view ${i}: its place is no whole number`);
    const room = buffer.uri === undefined ? Math.min(buffer.byteLength ?? 0, binaryBytes) : (buffer.byteLength ?? 0);
    if (from + v.byteLength > room)
      throw new GltfError(`buffer view ${i}: ${v.byteLength} bytes from byte ${from}, but there are ${room}`);
  });
}

function checkAccessors({ bufferViews = [], accessors = [] }: StructureJson): void {
  accessors.forEach((a, i) => {
    const [size, width] = [COMPONENT_BYTES[a.componentType ?? 0], COMPONENTS[a.type ?? '']];
    if (!size || !width) throw new GltfError(`accessor ${i}: ${a.componentType} ${a.type} is no kind of values`);
    if (!isCount(a.count) || !isCount(a.byteOffset ?? 0))
      throw new GltfError(`accessor ${i}: its place is no whole number`);
    if (a.bufferView === undefined) {
      // Values that lie nowhere are zeros: they cost the file nothing, but memory.
      if (a.count * size * width > MOST_ZEROS) throw new GltfError(`accessor ${i}: ${a.count} values that lie nowhere`);
      return;
    }
    const view = bufferViews[a.bufferView];
    if (!view) throw new GltfError(`accessor ${i}: there is no buffer view ${a.bufferView}`);
    const stride = view.byteStride ?? size * width;
    const end = a.count === 0 ? 0 : (a.byteOffset ?? 0) + (a.count - 1) * stride + size * width;
    if (end > view.byteLength!)
      throw new GltfError(`accessor ${i}: ${end} bytes of buffer view ${a.bufferView}, which has ${view.byteLength}`);
  });
}

/** Every node has one place below the others: none is below itself, or in two places. */
function checkNodes({ nodes = [] }: StructureJson): void {
  const parent = new Map<number, number>();
  nodes.forEach((node, i) => {
    const children = node.children ?? [];
    if (!Array.isArray(children)) throw new GltfError(`node ${i}: its children are no list`);
    for (const c of children) {
      if (!isCount(c) || c >= nodes.length) throw new GltfError(`node ${i}: there is no node ${c}`);
      if (parent.has(c)) throw new GltfError(`node ${c} is below node ${parent.get(c)} and below node ${i}`);
      parent.set(c, i);
    }
  });
  const fine = new Set<number>();
  nodes.forEach((_, i) => {
    const way = new Set<number>();
    for (let n: number | undefined = i; n !== undefined && !fine.has(n); n = parent.get(n)) {
      if (way.has(n)) throw new GltfError(`node ${n} is below itself`);
      way.add(n);
    }
    for (const n of way) fine.add(n);
  });
}

/** Refuses a file whose buffers, views, accessors and nodes do not fit together, before anything is made of them; says which. */
export function checkStructure(json: unknown, binaryBytes: number): void {
  if (typeof json !== 'object' || json === null || Array.isArray(json)) throw new GltfError('the JSON is no object');
  const structure = json as StructureJson;
  checkLists(structure);
  checkViews(structure, binaryBytes);
  checkAccessors(structure);
  checkNodes(structure);
}
