import { exposed, type LookTable, type Picture, type Plate, plateOf, readCube } from '@/core/comp';
import { type ByteSource, type ExrFile, fromBytes, type Inflate, readHeaders, readLayered } from '@/core/exr';
import type { FilmLayers } from '@/core/film';
import type { WorkingSpace } from '@/core/image';
import { type Content, pictureAt } from '@/core/scene';
import type { FilmOf } from './film-of';
import type { StackOver } from './stack';
import type { StackBeside } from './stack-beside';

/** Pictures that are kept as they were read, the least recently used let go. */
const MOST_PICTURES = 24;

/** Look tables that are kept, and files of layers that are kept open. */
const [MOST_TABLES, MOST_FILES] = [24, 4];

/** What is kept under a key, or made: the least recently used are let go, and what failed is made again when it is asked for. */
function keptOf<T>(kept: Map<string, Promise<T>>, key: string, most: number, make: () => Promise<T>): Promise<T> {
  const made = kept.get(key) ?? make();
  kept.delete(key);
  kept.set(key, made);
  made.catch(() => kept.delete(key));
  for (const old of kept.keys()) {
    if (kept.size <= most) break;
    kept.delete(old);
  }
  return made;
}

/** A file of layers: its bytes, its headers, and what was read of it last. */
interface Opened {
  source: ByteSource;
  file: ExrFile;
  read: Map<string, Promise<FilmLayers>>;
}

/** What was read for stacks last: of what is shown, and of its halves. */
const MOST_KEPT = 3;

/** What stacks need beside the film that is shown: fetched once, and the same object for as long as the same is asked for. */
export class Besides {
  private readonly pictures = new Map<string, Promise<Picture>>();
  private readonly files = new Map<string, Promise<Opened>>();
  private readonly tables = new Map<string, Promise<LookTable>>();
  private readonly kept = new Map<string, StackBeside>();

  constructor(
    /** Where films of trials are read. */
    private readonly cache: { film: (of: FilmOf, names: readonly string[]) => Promise<FilmLayers> },
    private readonly fetchContent: (hash: string) => Promise<Uint8Array>,
    private readonly inflate: Inflate,
  ) {}

  private picture(content: Content, rule: Rule, working: WorkingSpace): Promise<Picture> {
    const key = `${content.hash} ${Object.values(rule)} ${content.primaries} ${working}`;
    return keptOf(this.pictures, key, MOST_PICTURES, async () => {
      const bytes = await this.fetchContent(content.hash);
      const read = {
        ...pictureAt(bytes, { ...content, offset: 0 }),
        alpha: content.alpha ?? null,
        ...(content.primaries ? { primaries: content.primaries } : {}),
      };
      return plateOf(read, rule, working);
    });
  }

  private table(hash: string): Promise<LookTable> {
    return keptOf(this.tables, hash, MOST_TABLES, async () =>
      readCube(new TextDecoder().decode(await this.fetchContent(hash))),
    );
  }

  /** A file of layers as it lies there. */
  private file({ hash }: Content): Promise<Opened> {
    return keptOf(this.files, hash, MOST_FILES, async () => {
      const source = fromBytes(await this.fetchContent(hash));
      return { source, file: await readHeaders(source), read: new Map() };
    });
  }

  /** Layers of a file, its light such that 1 is display white. */
  private async layers(content: Content, names: readonly string[]): Promise<FilmLayers> {
    const { source, file, read } = await this.file(content);
    const key = JSON.stringify(names);
    const made = read.get(key) ?? readLayered(source, file, names, this.inflate);
    read.clear();
    read.set(key, made);
    return exposed(await made, content.scale ?? 1);
  }

  async of({ stack, others, files, contents, tables }: StackOver): Promise<StackBeside> {
    const rules = Object.entries(stack.pictures).map(([name, plate]) => [name, ruleOf(plate)]);
    const key = JSON.stringify([others, files, contents, tables, rules, stack.space]);
    const known = this.kept.get(key);
    if (known) return known;
    const films = await Promise.all(
      Object.entries(others).map(async ([name, { of, layers }]) => [name, await this.cache.film(of, layers)] as const),
    );
    const layered = await Promise.all(
      Object.entries(files).map(
        async ([name, { content, layers }]) => [name, await this.layers(content, layers)] as const,
      ),
    );
    const pictures = await Promise.all(
      Object.entries(contents).map(async ([name, content]) => {
        const rule = ruleOf(stack.pictures[name]);
        return [name, content ? await this.picture(content, rule, stack.space) : NO_STILL] as const;
      }),
    );
    const read = await Promise.all(
      Object.entries(tables).map(async ([name, hash]) => [name, await this.table(hash)] as const),
    );
    const beside = {
      films: new Map(films),
      files: new Map(layered),
      pictures: new Map(pictures),
      tables: new Map(read),
    };
    this.kept.set(key, beside);
    for (const old of this.kept.keys()) {
      if (this.kept.size <= MOST_KEPT) break;
      this.kept.delete(old);
    }
    return beside;
  }
}

/** How a plate's file is read. */
type Rule = Pick<Plate, 'encoding' | 'alpha' | 'space'>;
const ruleOf = ({ encoding, alpha, space }: Plate): Rule => ({ encoding, alpha, space });

/** What a plate shows where it has no still: one pixel of nothing. */
const NO_STILL: Picture = {
  width: 1,
  height: 1,
  planes: [new Float32Array(1), new Float32Array(1), new Float32Array(1), new Float32Array(1)],
};
