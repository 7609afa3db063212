import { HALF_PATCH, SOURCE, TARGET, type Level } from './level';

const AREA = (2 * HALF_PATCH + 1) ** 2;
/** Farthest that a patch may be made brighter or darker, levels. */
const MOST_BIAS = 24;

/** Finds for every target of a level the patch of the picture that is most like it. */
export interface Search {
  /** How unlike targets and their matches are now, and the bias between them. */
  measure(): void;
  /**
   * One round over all targets: what lies beside each is tried, then places at random ever nearer to the best.
   * @param forward from the first on, or from the last back; @param radius of the first random place, px
   * @param mirrors whether mirrored patches are tried
   */
  round(forward: boolean, radius: number, mirrors: boolean): void;
  /** Reads back what was found, and writes what was voted, where they lie elsewhere than in the level's own memory. */
  read(): void;
  write(): void;
}

/**
 * The search in plain steps: the oracle of the one in WebAssembly, which gives the same to the bit, and what is used where there is none.
 *
 * @param seed of the dice, 1..2^32 - 1
 * Source: Barnes, Shechtman, Finkelstein, Goldman 2009, PatchMatch (propagation and random search, from memory); the bias a patch after
 * Darabi and others 2012, Image melding, as an offset alone.
 */
export function plainSearch(level: Level, seed: number): Search {
  const { width, height, pixels, field, distances, biases, flags, targets } = level;
  let state = seed >>> 0 || 1;
  const dice = (): number => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return state;
  };
  const { climb, stray } = waysOf(level);
  const bias = [0, 0, 0];
  const sums = [0, 0, 0];
  const unlike = (target: number, match: number): number => {
    const [source, mirrored] = [match >> 1, match & 1];
    let squares = 0;
    sums.fill(0);
    for (let j = -HALF_PATCH; j <= HALF_PATCH; j += 1)
      for (let i = -HALF_PATCH; i <= HALF_PATCH; i += 1) {
        const p = (target + j * width + i) * 4;
        const q = (source + j * width + (mirrored ? -i : i)) * 4;
        for (let c = 0; c < 3; c += 1) {
          const d = (pixels[p + c] as number) - (pixels[q + c] as number);
          squares += d * d;
          sums[c] = (sums[c] as number) + d;
        }
      }
    for (let c = 0; c < 3; c += 1) {
      const sum = sums[c] as number;
      const b = biasOf(sum);
      bias[c] = b;
      squares -= 2 * b * sum - AREA * b * b - ((AREA * b * b) >> 2);
    }
    const [y0, y1] = [Math.floor(target / width), Math.floor(source / width)];
    const x = target - y0 * width - (source - y1 * width);
    return squares + ((Math.abs(y0 - y1) * climb + Math.abs(x) * stray) >> 4);
  };
  return {
    measure() {
      for (const t of targets) {
        distances[t] = unlike(t, field[t] as number);
        biases[t] = ((bias[0] as number) & 255) | (((bias[1] as number) & 255) << 8) | (((bias[2] as number) & 255) << 16);
      }
    },
    round(forward, radius, mirrors) {
      const step = forward ? -1 : 1;
      for (let k = 0; k < targets.length; k += 1) {
        const t = targets[forward ? k : targets.length - 1 - k] as number;
        let best = field[t] as number;
        let least = distances[t] as number;
        const attempt = (tried: number): void => {
          if (tried === best) return;
          const far = unlike(t, tried);
          if (far < least) [least, best] = [far, tried];
        };
        for (const by of [step, step * width]) {
          const beside = t + by;
          if (!((flags[beside] as number) & TARGET)) continue;
          const match = field[beside] as number;
          const source = (match >> 1) - (by === step && match & 1 ? -by : by);
          if ((flags[source] as number) & SOURCE) attempt((source << 1) | (match & 1));
        }
        for (let r = radius; r >= 1; r >>= 1) {
          const source = best >> 1;
          const y = Math.floor(source / width);
          const x = source - y * width;
          const u = x - r + ((dice() >>> 3) % (2 * r + 1));
          const v = y - r + ((dice() >>> 3) % (2 * r + 1));
          const turned = mirrors && ((dice() >>> 8) & 3) === 0 ? 1 : 0;
          if (u < HALF_PATCH || v < HALF_PATCH || u >= width - HALF_PATCH || v >= height - HALF_PATCH) continue;
          const place = v * width + u;
          if ((flags[place] as number) & SOURCE) attempt((place << 1) | ((best & 1) ^ turned));
        }
        field[t] = best;
        distances[t] = least;
      }
    },
    read: () => undefined,
    write: () => undefined,
  };
}

/** What it costs to copy from as far away as a level is high: a mean square of so many levels over a patch; from beside it a part of that. */
const ALL_THE_WAY = AREA * 3 * 2000;
const BESIDE = 0.5;

/**
 * What it costs to copy from a px higher or lower, and from one to the side, in sixteenths: on the corrected plane what lies at the same
 * height is mostly of the same kind.
 */
export const waysOf = ({ width, height }: Pick<Level, 'width' | 'height'>): { readonly climb: number; readonly stray: number } => ({
  climb: Math.round((16 * ALL_THE_WAY) / height),
  stray: Math.round((16 * BESIDE * ALL_THE_WAY) / width),
});

function biasOf(sum: number): number {
  const b = Math.sign(sum) * Math.floor((Math.abs(sum) + (AREA >> 1)) / AREA);
  return Math.min(MOST_BIAS, Math.max(-MOST_BIAS, b));
}
