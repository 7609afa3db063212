import { solveLinear } from '../linear/levenberg-marquardt';
import type { SeenCamera } from '../stance/line-residuals';
import { inverseOf } from '../linear/symmetric';
import { offOf, slopesOf, type Unknown } from '../stance/problem';
import { BUILT_DEG, KINDS, lineOf, longest, offDeg, problemOf, seenDeg, seenDirection, type Taken } from './agreeing';

const FEWEST = 4;
const MOST = 12;
/** Enough are taken when they know the camera nearly as well as twelve would. */
const NEARLY = 1.15;
/** What the references say may depart from what all edges say by this much, degrees, before others are taken for them; so often at most. */
const DEPARTS_DEG = 0.01;
const MOST_EXCHANGES = 24;
/** For that, as much of what the first choice knew may be given up, as a factor of the variance. */
const GIVEN_UP = 2;
/** A reference of full weight is at least this long, diagonals. */
const FULL_LENGTH = 0.03;
/** The longest of each kind are looked at. */
const MOST_WEIGHED = 24;

/**
 * The edges that are made references: those that leave the least unsure of the camera, one after the other, exchanged until together they
 * say what all edges say.
 *
 * @param camera what all edges say
 * @returns 4 to 12, at least two of each kind there is; fewer only where there are fewer
 * Source: greedy A-optimal design and exchange, Fedorov 1972, from memory.
 */
export function referencesAmong(
  taken: readonly Taken[],
  camera: SeenCamera,
  unknowns: readonly Unknown[],
  diagonalPx: number,
): readonly Taken[] {
  const from = worthwhile(taken, camera, diagonalPx);
  const problem = problemOf(
    from.map((edge, i) => lineOf(edge, String(i))),
    diagonalPx,
  );
  const columns = slopesOf(problem, unknowns, camera);
  const off = offOf(problem, camera);
  const n = unknowns.length;
  const slope = (k: number, i: number): number => columns[k]?.[i] as number;
  // sums of products of the slopes of some; next to nothing is known of any of them beside the edges: 30 degrees
  const normalOf = (chosen: readonly number[]): number[] => {
    const normal = new Array<number>(n * n).fill(0);
    for (let k = 0; k < n; k += 1) {
      normal[k * n + k] = 1e-3;
      for (let l = 0; l < n; l += 1) for (const i of chosen) normal[k * n + l] = (normal[k * n + l] as number) + slope(k, i) * slope(l, i);
    }
    return normal;
  };
  const unsure = (chosen: readonly number[]): number => {
    const inverse = inverseOf(normalOf(chosen), n);
    return inverse ? unknowns.reduce((sum, _, k) => sum + (inverse[k * n + k] as number), 0) : Infinity;
  };
  const departs = (chosen: readonly number[]): number => {
    const right = unknowns.map((_, k) => -chosen.reduce((sum, i) => sum + slope(k, i) * (off[i] as number), 0));
    return Math.max(...(solveLinear(normalOf(chosen), right) ?? [Infinity]).map(Math.abs));
  };
  const order: number[] = [];
  const sizes: number[] = [];
  while (order.length < Math.min(MOST, from.length)) {
    const left = [...from.keys()].filter((i) => !order.includes(i));
    const next = least(left, (i) => unsure([...order, i]));
    order.push(next);
    sizes.push(unsure(order));
  }
  const count = Math.max(FEWEST, 1 + sizes.findIndex((size) => size <= NEARLY * NEARLY * (sizes.at(-1) as number)));
  // one line of a kind is no direction
  const pairs = KINDS.flatMap((kind) => order.filter((i) => from[i]?.kind === kind).slice(0, 2));
  let chosen = [...new Set([...order.slice(0, count), ...pairs])];
  const known = unsure(chosen);
  for (let round = 0; round < MOST_EXCHANGES && departs(chosen) > DEPARTS_DEG; round += 1) {
    const now = chosen;
    const others = [...from.keys()].filter((i) => !now.includes(i));
    const exchanged = [
      ...(now.length < MOST ? others.map((i) => [...now, i]) : []),
      ...now.flatMap((out) => others.filter((i) => from[i]?.kind === from[out]?.kind).map((i) => now.map((j) => (j === out ? i : j)))),
    ].filter((set) => unsure(set) <= GIVEN_UP * known);
    const best = exchanged.length > 0 ? least(exchanged, departs) : now;
    if (departs(best) >= departs(now)) break;
    chosen = best;
  }
  return chosen.map((i) => from[i] as Taken);
}

/** Those that lie within what they are known to, and are long enough for full weight; all where too few of a kind are. */
function worthwhile(taken: readonly Taken[], camera: SeenCamera, diagonalPx: number): readonly Taken[] {
  return KINDS.flatMap((kind) => {
    const all = taken.filter((edge) => edge.kind === kind);
    const direction = seenDirection(camera, kind);
    const good = all.filter(
      ({ witness }) =>
        witness.length >= FULL_LENGTH * diagonalPx && offDeg(witness, camera, direction) <= 2.5 * Math.hypot(BUILT_DEG, seenDeg(witness)),
    );
    return longest(good.length >= Math.min(FEWEST, all.length) ? good : all, MOST_WEIGHED);
  });
}

const least = <T>(all: readonly T[], of: (one: T) => number): T => {
  let [best, value] = [all[0] as T, Infinity];
  for (const one of all) {
    const v = of(one);
    if (v < value) [best, value] = [one, v];
  }
  return best;
};
