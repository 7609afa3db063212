import { diagonal, type Point } from '../picture/point';
import { largestSample, type Raster } from '../raster/raster';
import { stepAcross } from './across-edge';
import type { Brightness } from './brightness';

/** What a picture's edges say of lateral colour. */
export interface LateralEstimate {
  /** Size of the red and blue image against the green one. */
  readonly red: number;
  readonly blue: number;
  /** How far red and blue lie off green in the farthest corner, px, positive outwards, with their standard deviations. */
  readonly redPx: number;
  readonly bluePx: number;
  readonly redSdPx: number;
  readonly blueSdPx: number;
  /** Places along edges that were measured. */
  readonly places: number;
  /** A strong edge far out, where before and after are best seen; picture px. */
  readonly at: Point;
}

/** The estimate, or why there is none. */
export type LateralOutcome = { readonly found: LateralEstimate; readonly why: null } | { readonly found: null; readonly why: string };

const BLOCK_PX = 24;
/** Edges nearer to the centre than this say nothing, share of the half diagonal. */
const NEAREST = 0.25;
/** Edges that run outwards say nothing: the way across must point outwards by at least this cosine. */
const OUTWARDS = 0.6;
const LEAST_STEP = 0.08;
const LEAST_PLACES = 60;
const MOST_PLACES = 6000;
/** Fringes wider than this are something else: colours that differ in reality. */
const WIDEST_PX = 3;
/** Certainty that is asked for, px in the corner. */
const MOST_SD_PX = 0.25;
const WINDOW_PX = 3.5;

/** One channel's brightness 0..1 at a position, bilinear. */
function channelOf({ width, height, channels, data }: Raster, channel: number, top: number): Brightness {
  return (x, y) => {
    const u = Math.min(width - 1, Math.max(0, x - 0.5));
    const v = Math.min(height - 1, Math.max(0, y - 0.5));
    const i = Math.min(width - 2, Math.floor(u));
    const j = Math.min(height - 2, Math.floor(v));
    const [fx, fy] = [u - i, v - j];
    const k = (j * width + i) * channels + channel;
    const row = width * channels;
    const upper = (data[k] as number) * (1 - fx) + (data[k + channels] as number) * fx;
    const lower = (data[k + row] as number) * (1 - fx) + (data[k + row + channels] as number) * fx;
    return (upper * (1 - fy) + lower * fy) / top;
  };
}

interface Place {
  /** How far out the place lies along the way across its edge, px. */
  readonly arm: number;
  readonly red: number;
  readonly blue: number;
  readonly at: Point;
  readonly radius: number;
}

/**
 * Sizes of the red and the blue image against the green one, from clear edges: across an edge that runs round the centre the three
 * colours step at places whose distances grow with the distance from the centre. Least squares without outliers.
 *
 * @param centre where the lens's axis meets the picture, px
 */
export function estimateLateral(picture: Raster, centre: Point): LateralOutcome {
  if (picture.channels < 3) return { found: null, why: 'A grey picture has no fringes.' };
  const half = diagonal(picture) / 2;
  const places = placesOf(picture, centre, half);
  if (places.length < LEAST_PLACES)
    return { found: null, why: 'Too few clear edges away from the middle: take a picture with edges all over, such as leafless branches.' };
  const [red, blue] = [fitSize(places, 'red'), fitSize(places, 'blue')];
  const corner = Math.max(
    ...[
      [0, 0],
      [picture.width, 0],
      [0, picture.height],
      [picture.width, picture.height],
    ].map(([x, y]) => Math.hypot((x as number) - centre[0], (y as number) - centre[1])),
  );
  if (Math.max(red.sd, blue.sd) * corner > MOST_SD_PX)
    return { found: null, why: 'The edges of this picture contradict each other: their colours differ in reality too.' };
  const far = places.reduce((p, q) => (Math.abs(q.arm) > Math.abs(p.arm) ? q : p));
  return {
    found: {
      red: 1 + red.size,
      blue: 1 + blue.size,
      redPx: red.size * corner,
      bluePx: blue.size * corner,
      redSdPx: red.sd * corner,
      blueSdPx: blue.sd * corner,
      places: places.length,
      at: far.at,
    },
    why: null,
  };
}

/** The strongest edge of every block of the picture, where it is clear in all three colours and runs round the centre. */
function placesOf(picture: Raster, [cx, cy]: Point, half: number): Place[] {
  const { width, height, channels, data } = picture;
  const top = largestSample(picture);
  const colours = [0, 1, 2].map((c) => channelOf(picture, c, top)) as [Brightness, Brightness, Brightness];
  const green = (i: number, j: number): number => data[(j * width + i) * channels + 1] as number;
  const block = Math.max(BLOCK_PX, Math.sqrt((width * height) / MOST_PLACES));
  const places: Place[] = [];
  const margin = 6;
  for (let y0 = margin; y0 + block < height - margin; y0 += block) {
    for (let x0 = margin; x0 + block < width - margin; x0 += block) {
      if (Math.hypot(x0 + block / 2 - cx, y0 + block / 2 - cy) < NEAREST * half) continue;
      let [bi, bj, bx, by, strongest] = [0, 0, 0, 0, 0];
      for (let j = Math.ceil(y0); j < y0 + block; j += 1) {
        for (let i = Math.ceil(x0); i < x0 + block; i += 1) {
          const gx = green(i + 1, j) - green(i - 1, j);
          const gy = green(i, j + 1) - green(i, j - 1);
          const g = gx * gx + gy * gy;
          if (g > strongest) [bi, bj, bx, by, strongest] = [i, j, gx, gy, g];
        }
      }
      const size = Math.sqrt(strongest);
      if (size / top < LEAST_STEP) continue;
      const at: Point = [bi + 0.5, bj + 0.5];
      const normal: Point = [bx / size, by / size];
      const [rx, ry] = [at[0] - cx, at[1] - cy];
      const radius = Math.hypot(rx, ry);
      const arm = rx * normal[0] + ry * normal[1];
      if (Math.abs(arm) < OUTWARDS * radius) continue;
      const steps = colours.map((colour) => stepAcross(colour, at[0], at[1], normal, 1, WINDOW_PX));
      const [r, g, b] = steps;
      if (!r || !g || !b || Math.min(r.w, g.w, b.w) < LEAST_STEP) continue;
      const [red, blue] = [r.o - g.o, b.o - g.o];
      if (Math.max(Math.abs(red), Math.abs(blue)) < WIDEST_PX) places.push({ arm, red, blue, at, radius });
    }
  }
  return places;
}

/** size of `off = size * arm`, by least squares, what lies beyond three times the median left out again and again. */
function fitSize(places: readonly Place[], colour: 'red' | 'blue'): { readonly size: number; readonly sd: number } {
  let kept = places;
  let size = 0;
  let variance = 0;
  for (let round = 0; round < 8; round += 1) {
    let [top, bottom] = [0, 0];
    for (const p of kept) {
      top += p.arm * p[colour];
      bottom += p.arm * p.arm;
    }
    size = top / bottom;
    const off = (p: Place): number => Math.abs(p[colour] - size * p.arm);
    variance = kept.reduce((sum, p) => sum + off(p) ** 2, 0) / Math.max(1, kept.length - 1) / bottom;
    const sorted = places.map(off).sort((p, q) => p - q);
    const limit = Math.max(0.03, 3 * 1.4826 * (sorted[sorted.length >> 1] as number));
    kept = places.filter((p) => off(p) <= limit);
  }
  return { size, sd: Math.sqrt(variance) };
}
