import { parseArgs } from 'node:util';

/** A fault in the arguments or input: one clear line, exit code 2. */
export class UsageError extends Error {}

export interface Arguments {
  positional: string[];
  options: Map<string, string[]>;
}

/**
 * Options and positional arguments, told apart by Node's own parser; only the options of `allowed` may appear, once each.
 * One of `values` may come again, and takes every argument up to the next option; a `flag` takes none.
 */
export function parseArguments(argv: string[], allowed: Record<string, 'value' | 'values' | 'flag'>): Arguments {
  const { tokens } = parseArgs({
    args: argv,
    strict: false,
    tokens: true,
    options: Object.fromEntries(
      Object.entries(allowed).map(([name, kind]) => [
        name,
        { type: kind === 'flag' ? ('boolean' as const) : ('string' as const), multiple: true },
      ]),
    ),
  });
  const positional: string[] = [];
  const options = new Map<string, string[]>();
  let open: string[] | null = null;
  for (const token of tokens) {
    if (token.kind === 'positional') (open ?? positional).push(token.value);
    if (token.kind !== 'option') continue;
    const { name, rawName, value } = token;
    const kind = Object.hasOwn(allowed, name) ? allowed[name] : undefined;
    if (!kind || !rawName.startsWith('--')) {
      const known = Object.keys(allowed).map((n) => `--${n}`);
      throw new UsageError(`${rawName} is not an option here; these are: ${known.join(', ')}`);
    }
    if (kind === 'flag') {
      if (token.inlineValue) throw new UsageError(`${rawName} takes no value`);
      options.set(name, ['']);
      open = null;
      continue;
    }
    if (value === undefined || (!token.inlineValue && value.startsWith('--')))
      throw new UsageError(`${rawName} needs a value`);
    const values = options.get(name) ?? [];
    if (values.length > 0 && kind === 'value') throw new UsageError(`${rawName} is given twice`);
    values.push(value);
    options.set(name, values);
    open = kind === 'values' ? values : null;
  }
  return { positional, options };
}

export function one(args: Arguments, name: string): string | undefined {
  return args.options.get(name)?.[0];
}

export function wholeNumber(args: Arguments, name: string, min: number, max: number): number | undefined {
  const text = one(args, name);
  if (text === undefined) return undefined;
  const n = Number(text);
  if (!Number.isInteger(n) || n < min || n > max)
    throw new UsageError(`--${name} ${text}: must be a whole number from ${min} to ${max}`);
  return n;
}

/** Writes a result to stdout: as JSON, or in words. */
export function print(json: boolean, value: unknown, text: string): void {
  process.stdout.write(json ? `${JSON.stringify(value, null, 2)}\n` : text);
}
