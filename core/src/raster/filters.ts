import type { FilterName } from '../correction/schema';

/** A separable interpolation kernel. */
export interface Filter {
  readonly name: FilterName;
  readonly label: string;
  /** Half width, px. */
  readonly radius: number;
  /** Weight at a distance, px; the sum over all taps is brought to one afterwards. */
  weight(distancePx: number): number;
  /** One plain sentence for the user. */
  readonly sentence: string;
}

const sinc = (x: number): number => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));

/** Two-parameter cubic (Mitchell, Netravali 1988, Reconstruction filters in computer graphics). */
function cubic(b: number, c: number): (x: number) => number {
  return (distancePx) => {
    const x = Math.abs(distancePx);
    if (x < 1) return ((12 - 9 * b - 6 * c) * x ** 3 + (-18 + 12 * b + 6 * c) * x * x + (6 - 2 * b)) / 6;
    if (x < 2) return ((-b - 6 * c) * x ** 3 + (6 * b + 30 * c) * x * x + (-12 * b - 48 * c) * x + (8 * b + 24 * c)) / 6;
    return 0;
  };
}

/** All filters by name. */
export const FILTERS: Readonly<Record<FilterName, Filter>> = {
  nearest: {
    name: 'nearest',
    label: 'Nearest pixel',
    radius: 1,
    // halfway the pixel to the right
    weight: (x) => (x > -0.5 && x <= 0.5 ? 1 : 0),
    sentence: 'Every value is one of the picture’s own, none is mixed; for masks and drawings of few colours. Edges become steps.',
  },
  bilinear: {
    name: 'bilinear',
    label: 'Bilinear',
    radius: 1,
    weight: (x) => Math.max(0, 1 - Math.abs(x)),
    sentence: 'Quick and soft; for drafts.',
  },
  bicubic: { name: 'bicubic', label: 'Bicubic', radius: 2, weight: cubic(0, 0.5), sentence: 'Crisp, with slight halos at hard edges.' },
  mitchell: {
    name: 'mitchell',
    label: 'Mitchell',
    radius: 2,
    weight: cubic(1 / 3, 1 / 3),
    sentence: 'Smooth, practically without halos at glazing bars against the sky.',
  },
  lanczos3: {
    name: 'lanczos3',
    label: 'Lanczos 3',
    radius: 3,
    weight: (x) => (Math.abs(x) < 3 ? sinc(x) * sinc(x / 3) : 0),
    sentence: 'Keeps the finest detail; can ring slightly at very hard edges.',
  },
};

const STEPS = 2048;

/** A kernel's weights in a table over the distance, so that a weight costs one look-up and one interpolation (error below 1e-6). */
export function tabulate(filter: Filter): Float64Array {
  const table = new Float64Array(Math.ceil(filter.radius) * STEPS + 2);
  for (let i = 0; i < table.length; i += 1) table[i] = filter.weight(i / STEPS);
  return table;
}

/** Weight at a distance from a table of {@link tabulate}. */
export function tabulated(table: Float64Array, distancePx: number): number {
  const position = Math.abs(distancePx) * STEPS;
  const index = Math.floor(position);
  if (index + 1 >= table.length) return 0;
  const low = table[index] as number;
  return low + ((table[index + 1] as number) - low) * (position - index);
}

/** Phases a pixel of {@link phaseTable}. */
export const PHASES = 1024;

/**
 * Weights of all 2 radius taps for each phase of a sample position, sums brought to one: row p holds the taps for a position that lies
 * p / PHASES px right of a pixel's centre, the first tap radius - 1 pixels left of it. One more row closes the interpolation.
 */
export function phaseTable(filter: Filter): Float64Array {
  const taps = 2 * filter.radius;
  const table = new Float64Array((PHASES + 1) * taps);
  for (let p = 0; p <= PHASES; p += 1) {
    let sum = 0;
    for (let k = 0; k < taps; k += 1) sum += table[p * taps + k] = filter.weight(k - (filter.radius - 1) - p / PHASES);
    for (let k = 0; k < taps; k += 1) table[p * taps + k] = (table[p * taps + k] as number) / sum;
  }
  return table;
}
