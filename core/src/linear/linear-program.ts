/** One constraint of a linear program: `normal . x <= limit`. */
export interface HalfSpace {
  readonly normal: readonly number[];
  readonly limit: number;
}

const EPS = 1e-10;

/**
 * Maximises `objective . x` under half-space constraints inside a box, by incremental constraints
 * (Seidel 1991, Small-dimensional linear programming and convex hulls made easy). For a handful of variables.
 *
 * @param objective one weight a variable
 * @param constraints half-spaces; normals of about unit length, so that the tolerance means the same everywhere
 * @param box lower and upper bound of each variable; keeps the answer finite
 * @returns the maximising x, or null when no x satisfies everything
 */
export function linearProgram(
  objective: readonly number[],
  constraints: readonly HalfSpace[],
  box: readonly (readonly [number, number])[],
): number[] | null {
  return incremental(objective, shuffled(constraints), box);
}

/** The expected running time needs a random order; a fixed one keeps results repeatable. */
function shuffled(constraints: readonly HalfSpace[]): HalfSpace[] {
  const order = [...constraints];
  let state = 12345;
  for (let i = order.length - 1; i > 0; i -= 1) {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
    const j = state % (i + 1);
    [order[i], order[j]] = [order[j] as HalfSpace, order[i] as HalfSpace];
  }
  return order;
}

function incremental(
  objective: readonly number[],
  constraints: readonly HalfSpace[],
  box: readonly (readonly [number, number])[],
): number[] | null {
  const [first] = box;
  if (box.length === 1 && first) {
    let [low, high] = first;
    for (const { normal, limit } of constraints) {
      const a = normal[0] ?? 0;
      if (Math.abs(a) < EPS) {
        if (limit < -1e-9) return null;
      } else if (a > 0) high = Math.min(high, limit / a);
      else low = Math.max(low, limit / a);
    }
    if (low > high + 1e-9) return null;
    return [(objective[0] ?? 0) >= 0 ? high : Math.min(low, high)];
  }
  let x: number[] = box.map(([low, high], k) => ((objective[k] ?? 0) >= 0 ? high : low));
  for (let i = 0; i < constraints.length; i += 1) {
    const { normal, limit } = constraints[i] as HalfSpace;
    let value = 0;
    for (let k = 0; k < x.length; k += 1) value += (normal[k] as number) * (x[k] as number);
    if (value <= limit + 1e-9) continue;
    const next = onBoundary(objective, constraints.slice(0, i), box, normal, limit);
    if (!next) return null;
    x = next;
  }
  return x;
}

/** The same program restricted to the hyperplane `normal . x = limit`: one variable is eliminated. */
function onBoundary(
  objective: readonly number[],
  constraints: readonly HalfSpace[],
  box: readonly (readonly [number, number])[],
  normal: readonly number[],
  limit: number,
): number[] | null {
  const pivot = normal.reduce((best, value, k) => (Math.abs(value) > Math.abs(normal[best] ?? 0) ? k : best), 0);
  const p = normal[pivot] ?? 0;
  if (Math.abs(p) < EPS) return null;
  const without = <T>(values: readonly T[]): T[] => values.filter((_, k) => k !== pivot);
  const ratio = without(normal).map((value) => value / p);
  const base = limit / p;
  const eliminate = (weights: readonly number[]): number[] => without(weights).map((w, k) => w - (weights[pivot] ?? 0) * (ratio[k] ?? 0));
  const reduced: HalfSpace[] = constraints.map((c) => ({ normal: eliminate(c.normal), limit: c.limit - (c.normal[pivot] ?? 0) * base }));
  const [low, high] = box[pivot] ?? [0, 0];
  reduced.push({ normal: ratio.map((r) => -r), limit: high - base }, { normal: ratio, limit: base - low });
  const rest = incremental(eliminate(objective), reduced, without(box));
  if (!rest) return null;
  const solved = base - rest.reduce((sum, value, k) => sum + value * (ratio[k] ?? 0), 0);
  return [...rest.slice(0, pivot), solved, ...rest.slice(pivot)];
}
