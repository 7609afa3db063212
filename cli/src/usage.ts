/** Wrong use of the command line: exit code 2. */
export class UsageError extends Error {}

/** Parsed arguments of a verb: positions in order, options by name (true where no value was given). */
export interface Arguments {
  readonly positions: readonly string[];
  readonly options: ReadonlyMap<string, string | true>;
}

/**
 * Splits arguments into positions and options.
 * @param valued names of options that take a value
 * @param flags names of options that take none
 * @throws UsageError for an unknown option or a missing value
 */
export function parseArguments(args: readonly string[], valued: readonly string[], flags: readonly string[] = []): Arguments {
  const positions: string[] = [];
  const options = new Map<string, string | true>();
  for (let i = 0; i < args.length; i += 1) {
    const arg = args[i] as string;
    if (!arg.startsWith('--')) {
      positions.push(arg);
      continue;
    }
    const name = arg.slice(2);
    if (flags.includes(name)) options.set(name, true);
    else if (valued.includes(name)) {
      i += 1;
      const value = args[i];
      if (value === undefined) throw new UsageError(`--${name} needs a value.`);
      options.set(name, value);
    } else throw new UsageError(`There is no option --${name} here.`);
  }
  return { positions, options };
}

/** An option's value as text, or undefined. */
export const textOption = (args: Arguments, name: string): string | undefined => {
  const value = args.options.get(name);
  return typeof value === 'string' ? value : undefined;
};

/** An option's value as a whole number within bounds, or undefined. */
export function wholeOption(args: Arguments, name: string, from: number, to: number): number | undefined {
  const text = textOption(args, name);
  if (text === undefined) return undefined;
  const value = Number(text);
  if (!Number.isInteger(value) || value < from || value > to)
    throw new UsageError(`--${name} must be a whole number from ${from} to ${to}, not "${text}".`);
  return value;
}

/** Exactly `count` positions, or a UsageError that shows the verb's form. */
export function requirePositions(args: Arguments, count: number, form: string): readonly string[] {
  if (args.positions.length !== count) throw new UsageError(`Use: plumb ${form}`);
  return args.positions;
}

/** What the command line can do. */
export const HELP = `plumb VERB ...

  info PICTURE                                   what a picture file says of itself
  solve CORRECTION                               the lens from traced edges, the stance from the references, with a report
  map CORRECTION --points FILE [--inverse]       picture positions to the output file, or back
  trim CORRECTION                                the crop as its answers give it
  apply CORRECTION PICTURE --out FILE            full-quality export (.jpg, .png, .tif, .webp, .avif, .jxl)
  suggest PICTURE [--correction FILE]            what the picture itself says of how its camera stood
  batch CORRECTION PICTURE ... --out DIR         the same correction on many pictures, several at a time
  batch --suggest KIND --sure DEG PICTURE ...    each picture's own suggestion where it is that sure; without --out only said
        --list FILE [--shard 3/16] [--resume]    pictures from JSON lines; that part of them; what is there already is skipped
  split SHEET [--out DIR]                        the prints on a scan as files of their own; only found without --out
  calibrate PICTURE ... --board 9x6              a lens profile from pictures of a checkerboard (inner corners across x down)

One JSON value on standard output; a line for each picture before it where pictures come from a list or by suggestion. Exit 0: done; 1: the work failed; 2: wrong use.
`;
