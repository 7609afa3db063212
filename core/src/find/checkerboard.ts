import { distance, type Point } from '../picture/point';
import { halveRaster, largestSample, type Raster } from '../raster/raster';
import { brightnessOf, type Brightness } from './brightness';

/** Inner corners of a checkerboard: across and down. */
export interface BoardSize {
  readonly across: number;
  readonly down: number;
}

/** Corners are sought in pictures of at most this many px on the longer side, and placed in the original. */
const SEARCH_SIDE = 1400;
const SMOOTH_PX = 1.6;
/** Corners weaker than this share of the strongest are passed over. */
const LEAST_SHARE = 0.02;
const RING_PX = 5;
const RING_SAMPLES = 32;
/** Neighbours lie within this angle of a corner's own directions, rad. */
const CONE = 0.45;

/** A place where brightness has a saddle, as where four squares meet, with the directions of its two edges, rad. */
interface Saddle {
  readonly at: Point;
  readonly strength: number;
  readonly directions: readonly [number, number];
}

/**
 * The inner corners of a checkerboard, row by row: places where four squares meet, grown into a grid from neighbour to neighbour, and
 * placed where all gradients about them point past them.
 *
 * @returns across x down points, picture px, in an order that is a rotation of the board and never its mirror image; null where the
 * whole board is not in sight
 * Source of the placing: Foerstner, Guelch 1987, A fast operator for detection and precise location of distinct points.
 */
export function findBoard(picture: Raster, board: BoardSize): Point[] | null {
  let small = picture;
  while (Math.max(small.width, small.height) > SEARCH_SIDE) small = halveRaster(small);
  const scale = picture.width / small.width;
  const saddles = saddlesOf(small);
  const grid = growGrid(saddles, board);
  if (!grid) return null;
  const brightness = brightnessOf(picture, largestSample(picture));
  return grid.map((p, i) => {
    const column = i % board.across;
    const beside = grid[column > 0 ? i - 1 : i + 1] as Point;
    const below = grid[i >= board.across ? i - board.across : i + board.across] as Point;
    const spacing = Math.min(distance(p, beside), distance(p, below)) * scale;
    return placed(brightness, [p[0] * scale, p[1] * scale], Math.max(3, Math.min(11 * Math.max(1, scale), 0.4 * spacing)));
  });
}

/** Brightness, smoothed by a Gaussian, as a plane of numbers. */
function smoothed(raster: Raster): Float32Array {
  const { width, height } = raster;
  const brightness = brightnessOf(raster, largestSample(raster));
  const reach = Math.ceil(3 * SMOOTH_PX);
  const weights = Array.from({ length: 2 * reach + 1 }, (_, i) => Math.exp(-0.5 * ((i - reach) / SMOOTH_PX) ** 2));
  const total = weights.reduce((sum, w) => sum + w, 0);
  const plane = Float32Array.from({ length: width * height }, (_, k) => brightness((k % width) + 0.5, Math.floor(k / width) + 0.5));
  const blur = (from: Float32Array, step: number, length: number, of: (k: number) => number): Float32Array =>
    from.map((_, k) => {
      const at = of(k);
      let sum = 0;
      for (let i = -reach; i <= reach; i += 1) {
        const clamped = Math.min(length - 1, Math.max(0, at + i));
        sum += (weights[i + reach] as number) * (from[k + (clamped - at) * step] as number);
      }
      return sum / total;
    });
  return blur(
    blur(plane, 1, width, (k) => k % width),
    width,
    height,
    (k) => Math.floor(k / width),
  );
}

function saddlesOf(raster: Raster): Saddle[] {
  const { width, height } = raster;
  const plane = smoothed(raster);
  const at = (k: number): number => plane[k] as number;
  const strength = new Float32Array(width * height);
  let strongest = 0;
  for (let y = 2; y < height - 2; y += 1) {
    for (let x = 2; x < width - 2; x += 1) {
      const k = y * width + x;
      const xx = at(k - 1) + at(k + 1) - 2 * at(k);
      const yy = at(k - width) + at(k + width) - 2 * at(k);
      const xy = (at(k - width - 1) + at(k + width + 1) - at(k - width + 1) - at(k + width - 1)) / 4;
      const s = Math.max(0, xy * xy - xx * yy);
      strength[k] = s;
      strongest = Math.max(strongest, s);
    }
  }
  const found: Saddle[] = [];
  const brightness: Brightness = (x, y) => {
    const i = Math.min(width - 2, Math.max(0, Math.floor(x - 0.5)));
    const j = Math.min(height - 2, Math.max(0, Math.floor(y - 0.5)));
    const [fx, fy] = [x - 0.5 - i, y - 0.5 - j];
    const k = j * width + i;
    return (at(k) * (1 - fx) + at(k + 1) * fx) * (1 - fy) + (at(k + width) * (1 - fx) + at(k + width + 1) * fx) * fy;
  };
  const NEAR = 3;
  for (let y = 6; y < height - 6; y += 1) {
    for (let x = 6; x < width - 6; x += 1) {
      const k = y * width + x;
      const s = strength[k] as number;
      if (s < LEAST_SHARE * strongest) continue;
      let peak = true;
      for (let j = -NEAR; j <= NEAR && peak; j += 1)
        for (let i = -NEAR; i <= NEAR; i += 1) {
          const other = strength[k + j * width + i] as number;
          if (other > s || (other === s && j * width + i < 0)) peak = false;
        }
      const point: Point = [x + 0.5, y + 0.5];
      const directions = peak ? edgesAround(brightness, point) : null;
      if (directions) found.push({ at: point, strength: s, directions });
    }
  }
  return found;
}

/** Directions of the two edges that cross at a point, rad in [0, pi); null where a ring about it is not light, dark, light, dark. */
function edgesAround(brightness: Brightness, [x, y]: Point): readonly [number, number] | null {
  const ring = Array.from({ length: RING_SAMPLES }, (_, i) => {
    const angle = (2 * Math.PI * i) / RING_SAMPLES;
    return brightness(x + RING_PX * Math.cos(angle), y + RING_PX * Math.sin(angle));
  });
  const middle = (Math.max(...ring) + Math.min(...ring)) / 2;
  const changes: number[] = [];
  ring.forEach((value, i) => {
    const next = ring[(i + 1) % RING_SAMPLES] as number;
    if (value > middle !== next > middle) changes.push((2 * Math.PI * (i + (middle - value) / (next - value))) / RING_SAMPLES);
  });
  if (changes.length !== 4) return null;
  const [a, b, c, d] = changes as [number, number, number, number];
  // opposite changes belong to one edge, which runs straight through
  if (Math.abs(c - a - Math.PI) > 0.7 || Math.abs(d - b - Math.PI) > 0.7) return null;
  return [((a + c - Math.PI) / 2 + Math.PI) % Math.PI, ((b + d - Math.PI) / 2 + Math.PI) % Math.PI];
}

/** Squares of a board seen aslant differ from their neighbours by at most this, as a logarithm of their sides. */
const MOST_GROWTH = 1;

/** A saddle's place in the grid, its own ways across and down, rad, and how far the step to it was, px; 0 for the first. */
interface Place {
  readonly i: number;
  readonly j: number;
  readonly u: number;
  readonly v: number;
  readonly step: number;
}

const turned = (from: number, to: number): number => Math.abs(Math.atan2(Math.sin(to - from), Math.cos(to - from)));

/** The grid of across x down that grows from some saddle; null where none does. */
function growGrid(saddles: readonly Saddle[], { across, down }: BoardSize): Point[] | null {
  const neighbour = (from: number, angle: number): number | null => {
    const p = (saddles[from] as Saddle).at;
    let [best, nearest] = [-1, Infinity];
    saddles.forEach(({ at }, i) => {
      if (i === from) return;
      const away = distance(p, at);
      if (away < nearest && turned(angle, Math.atan2(at[1] - p[1], at[0] - p[0])) < CONE) [best, nearest] = [i, away];
    });
    return best < 0 ? null : best;
  };
  /** The one of a saddle's four ways that goes on in a direction. */
  const onward = (at: number, angle: number): number => {
    const ways = (saddles[at] as Saddle).directions.flatMap((d) => [d, d + Math.PI]);
    return ways.reduce((p, q) => (turned(q, angle) < turned(p, angle) ? q : p));
  };
  const tried = new Set<number>();
  const seeds = saddles.map((_, i) => i).sort((p, q) => (saddles[q] as Saddle).strength - (saddles[p] as Saddle).strength);
  for (const seed of seeds) {
    if (tried.has(seed)) continue;
    const [d0, d1] = (saddles[seed] as Saddle).directions;
    // down lies clockwise of across as seen, so that no board comes out as its mirror image
    const v0 = Math.sin(d1 - d0) > 0 ? d1 : d1 + Math.PI;
    const places = new Map<number, Place>([[seed, { i: 0, j: 0, u: d0, v: v0, step: 0 }]]);
    const taken = new Map<string, number>([['0,0', seed]]);
    const queue = [seed];
    for (let at = queue.shift(); at !== undefined; at = queue.shift()) {
      const { i, j, u, v, step } = places.get(at) as Place;
      for (const [di, dj, angle] of [
        [1, 0, u],
        [-1, 0, u + Math.PI],
        [0, 1, v],
        [0, -1, v + Math.PI],
      ] as const) {
        const next = neighbour(at, angle);
        const away = next === null ? 0 : distance((saddles[at] as Saddle).at, (saddles[next] as Saddle).at);
        if (next === null || places.has(next) || taken.has(`${i + di},${j + dj}`)) continue;
        const [nu, nv] = [onward(next, u), onward(next, v)];
        // as far as the last step, about
        if (step > 0 && Math.abs(Math.log(away / step)) > MOST_GROWTH) continue;
        // mutual, and with directions of its own that go on
        if (turned(nu, u) > CONE || turned(nv, v) > CONE || neighbour(next, angle + Math.PI) !== at) continue;
        places.set(next, { i: i + di, j: j + dj, u: nu, v: nv, step: away });
        taken.set(`${i + di},${j + dj}`, next);
        queue.push(next);
      }
    }
    places.forEach((_, index) => tried.add(index));
    const grid = wholeGrid(saddles, taken, across, down);
    if (grid) return grid;
  }
  return null;
}

/**
 * The whole board among the taken places, row by row with `across` running across; stray neighbours beside it do no harm. Null where it
 * is not there, or where a larger board would hold it in more than one place.
 */
function wholeGrid(saddles: readonly Saddle[], taken: ReadonlyMap<string, number>, across: number, down: number): Point[] | null {
  const at = (i: number, j: number): Point | null => {
    const index = taken.get(`${i},${j}`);
    return index === undefined ? null : (saddles[index] as Saddle).at;
  };
  const found: Point[][] = [];
  for (const key of taken.keys()) {
    const [i0, j0] = key.split(',').map(Number) as [number, number];
    for (const turned of across === down ? [false] : [false, true]) {
      const grid: Point[] = [];
      for (let j = 0; j < down; j += 1)
        for (let i = 0; i < across; i += 1) {
          const p = turned ? at(i0 + down - 1 - j, j0 + i) : at(i0 + i, j0 + j);
          if (p) grid.push(p);
        }
      if (grid.length === across * down) found.push(grid);
    }
  }
  return found.length === 1 ? (found[0] as Point[]) : null;
}

/** Where every gradient within a window points past: the crossing of the two edges, to a few hundredths of a pixel. */
function placed(brightness: Brightness, start: Point, window: number): Point {
  let [x, y] = start;
  const reach = Math.ceil(window);
  for (let round = 0; round < 20; round += 1) {
    let [xx, xy, yy, bx, by] = [0, 0, 0, 0, 0];
    for (let j = -reach; j <= reach; j += 1) {
      for (let i = -reach; i <= reach; i += 1) {
        const weight = Math.exp(-0.5 * ((i * i + j * j) / (window * window)) * 4);
        const [px, py] = [x + i, y + j];
        const gx = (brightness(px + 1, py) - brightness(px - 1, py)) / 2;
        const gy = (brightness(px, py + 1) - brightness(px, py - 1)) / 2;
        xx += weight * gx * gx;
        xy += weight * gx * gy;
        yy += weight * gy * gy;
        bx += weight * (gx * gx * i + gx * gy * j);
        by += weight * (gx * gy * i + gy * gy * j);
      }
    }
    const det = xx * yy - xy * xy;
    if (!(det > 1e-12)) return start;
    const [dx, dy] = [(yy * bx - xy * by) / det, (xx * by - xy * bx) / det];
    x += dx;
    y += dy;
    if (Math.hypot(x - start[0], y - start[1]) > window) return start;
    if (Math.hypot(dx, dy) < 1e-3) break;
  }
  return [x, y];
}
