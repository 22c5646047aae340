/** A fault in the arguments or input: one clear line, exit code 2. */
export class UsageError extends Error {}

export interface Arguments {
  positional: string[];
  options: Map<string, string[]>;
}

/** Splits `--name value` options, of which only `allowed` may appear, from positional arguments. */
export function parseArguments(argv: string[], allowed: Record<string, 'value' | 'values'>): Arguments {
  const positional: string[] = [];
  const options = new Map<string, string[]>();
  for (let i = 0; i < argv.length; i++) {
    const arg = argv[i];
    if (!arg.startsWith('--')) {
      positional.push(arg);
      continue;
    }
    const name = arg.slice(2);
    const kind = Object.hasOwn(allowed, name) ? allowed[name] : undefined;
    if (!kind)
      throw new UsageError(
        `--${name} is not an option here; these are: ${Object.keys(allowed)
          .map((n) => `--${n}`)
          .join(', ')}`,
      );
    const values: string[] = [];
    while (i + 1 < argv.length && !argv[i + 1].startsWith('--') && (kind === 'values' || values.length === 0))
      values.push(argv[++i]);
    if (values.length === 0) throw new UsageError(`--${name} needs a value`);
    const known = options.get(name);
    if (known && kind === 'value') throw new UsageError(`--${name} is given twice`);
    options.set(name, [...(known ?? []), ...values]);
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
