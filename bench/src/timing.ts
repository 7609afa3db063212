/** What the bench found, by name. */
export type Rows = Record<string, number>;

export const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1] as number;

const WARMING = 3;
const TURNS = 15;

/** The times of contenders, turn by turn. */
export type Turns<Name extends string> = Readonly<Record<Name, readonly number[]>>;

/** Contenders one after the other, again and again, so that a machine that slows down tells nothing. */
export async function inTurns<Name extends string>(
  contenders: Readonly<Record<Name, () => number | Promise<number>>>,
  turns = TURNS,
  warming = WARMING,
): Promise<Turns<Name>> {
  const names = Object.keys(contenders) as Name[];
  const times = Object.fromEntries(names.map((name) => [name, [] as number[]])) as Record<Name, number[]>;
  for (let turn = -warming; turn < turns; turn += 1)
    for (const name of names) {
      const taken = await contenders[name]();
      if (turn >= 0) times[name].push(taken);
    }
  return times;
}

/** How many times as long one takes as another: the median over the turns, within each of which both met the same machine. */
export const ratio = (ones: readonly number[], others: readonly number[]): number =>
  median(ones.map((one, turn) => one / (others[turn] as number)));

/** The median time of one run, ms, compilers being done. */
export function timed(work: () => void): number {
  const times: number[] = [];
  for (let turn = -WARMING; turn < TURNS; turn += 1) {
    const started = performance.now();
    work();
    if (turn >= 0) times.push(performance.now() - started);
  }
  return median(times);
}
