import { solveLinear } from '../linear/levenberg-marquardt';
import { largestSample, type Raster } from '../raster/raster';

/** Colours of a level, lightly smoothed: three planes, row by row, 0..1. */
export interface Planes {
  readonly width: number;
  readonly height: number;
  readonly planes: readonly [Float32Array, Float32Array, Float32Array];
}

/** The colours of a raster, smoothed by 1 2 1 each way; grey gives three planes alike. */
export function planesOf({ width, height, channels, data }: Raster): Planes {
  const scale = 1 / largestSample({ data });
  const plane = (c: number): Float32Array => {
    const across = new Float32Array(width * height);
    for (let y = 0, k = 0; y < height; y += 1)
      for (let x = 0; x < width; x += 1, k += 1) {
        const at = k * channels + c;
        const here = data[at] as number;
        const before = x > 0 ? (data[at - channels] as number) : here;
        const after = x + 1 < width ? (data[at + channels] as number) : here;
        across[k] = ((before + 2 * here + after) * scale) / 16;
      }
    const out = new Float32Array(width * height);
    for (let y = 0, k = 0; y < height; y += 1) {
      const up = y > 0 ? -width : 0;
      const low = y + 1 < height ? width : 0;
      for (let x = 0; x < width; x += 1, k += 1)
        out[k] = (across[k + up] as number) + 2 * (across[k] as number) + (across[k + low] as number);
    }
    return out;
  };
  if (channels < 3) {
    const grey = plane(0);
    return { width, height, planes: [grey, grey, grey] };
  }
  return { width, height, planes: [plane(0), plane(1), plane(2)] };
}

/** By how much each pixel of a level differs from the lid, 0..1, and how much the lid itself does. */
export interface Lid {
  /** The greatest difference of its colours; 0 where there is none. */
  readonly off: Float32Array;
  /** Each colour's difference, signed. */
  readonly rest: readonly Float32Array[];
  /** Deviation of the lid's own pixels from it, 0..1. */
  readonly grain: number;
  /** Share of the frame that looks like one lid: little where there is none. */
  readonly share: number;
}

/** The frame of a scan, as a share of its shorter side. */
const FRAME = 0.012;
/** What differs by more than this from the frame's middle is no lid to begin with. */
const FIRST_TOLERANCE = 0.09;
/** Strips along the sides in which light may fall off steeply, as a share. */
const STRIP = 0.06;
const ROUNDS = 4;
const TAKEN = 8000;

/**
 * The lid above a sheet: light falls off smoothly towards the corners, and in its own way along rows and columns (a shadow at one side).
 *
 * @returns by how much every pixel differs from it
 */
export function lidOf({ width, height, planes }: Planes): Lid {
  const count = width * height;
  const border = Math.max(2, Math.round(FRAME * Math.min(width, height)));
  const inFrame = (k: number): boolean => {
    const [x, y] = [k % width, Math.floor(k / width)];
    return x < border || y < border || x >= width - border || y >= height - border;
  };
  const frame: number[] = [];
  for (let k = 0; k < count; k += 1) if (inFrame(k)) frame.push(k);
  const middles = planes.map((plane) => medianOf(frame.map((k) => plane[k] as number)));
  const isLike = (k: number, tolerance: number): boolean =>
    planes.every((plane, c) => Math.abs((plane[k] as number) - (middles[c] as number)) <= tolerance);
  const share = frame.filter((k) => isLike(k, FIRST_TOLERANCE)).length / frame.length;
  const every = Math.max(1, Math.floor(count / TAKEN));
  const surfaces = planes.map((plane, c) => {
    let taken = frame.filter((k, i) => i % 3 === 0 && isLike(k, FIRST_TOLERANCE));
    let powers: readonly number[] = [middles[c] as number, 0, 0, 0, 0, 0];
    let within = FIRST_TOLERANCE;
    for (let round = 0; round < ROUNDS; round += 1) {
      powers = smoothSurface(plane, taken, width, height) ?? powers;
      const off = taken.map((k) => Math.abs((plane[k] as number) - valueAt(powers, k, width, height)));
      within = Math.min(within, Math.max(0.012, 5 * medianOf(off)));
      const next: number[] = [];
      for (let k = round % every; k < count; k += every)
        if (Math.abs((plane[k] as number) - valueAt(powers, k, width, height)) <= within && isLike(k, 2 * FIRST_TOLERANCE)) next.push(k);
      if (next.length < 50) break;
      taken = next;
    }
    return withProfiles(plane, powers, within, width, height);
  });
  const rest = planes.map((plane, c) => plane.map((v, k) => v - ((surfaces[c] as Float32Array)[k] as number)));
  const [r, g, b] = rest as [Float32Array, Float32Array, Float32Array];
  const off = r.map((v, k) => Math.max(Math.abs(v), Math.abs(g[k] as number), Math.abs(b[k] as number)));
  const near = frame.map((k) => off[k] as number).filter((d) => d <= FIRST_TOLERANCE);
  const grain = near.length === 0 ? 0 : 1.2 * medianOf(near);
  return { off, rest, grain, share };
}

export const medianOf = (values: readonly number[]): number => Float64Array.from(values).sort()[values.length >> 1] ?? 0;

/** 1, x, y, x squared, x y, y squared of a pixel, -1..1. */
function termsAt(k: number, width: number, height: number): readonly number[] {
  const x = (2 * (k % width)) / width - 1;
  const y = (2 * Math.floor(k / width)) / height - 1;
  return [1, x, y, x * x, x * y, y * y];
}

const valueAt = (powers: readonly number[], k: number, width: number, height: number): number => {
  const x = (2 * (k % width)) / width - 1;
  const y = (2 * Math.floor(k / width)) / height - 1;
  const p = powers as [number, number, number, number, number, number];
  return p[0] + p[1] * x + p[2] * y + p[3] * x * x + p[4] * x * y + p[5] * y * y;
};

/** Least squares through some pixels. */
function smoothSurface(plane: Float32Array, taken: readonly number[], width: number, height: number): readonly number[] | null {
  const matrix = new Array<number>(36).fill(0);
  const right = new Array<number>(6).fill(0);
  for (const k of taken) {
    const terms = termsAt(k, width, height);
    const value = plane[k] as number;
    for (let i = 0; i < 6; i += 1) {
      const t = terms[i] as number;
      right[i] = (right[i] as number) + t * value;
      for (let j = 0; j < 6; j += 1) matrix[6 * i + j] = (matrix[6 * i + j] as number) + t * (terms[j] as number);
    }
  }
  for (let i = 0; i < 6; i += 1) matrix[7 * i] = (matrix[7 * i] as number) + 1e-6 * taken.length;
  return solveLinear(matrix, right);
}

/** The smooth surface with what columns and rows have in common beyond it, where enough of them is lid. */
function withProfiles(plane: Float32Array, powers: readonly number[], within: number, width: number, height: number): Float32Array {
  const rest = new Float32Array(width * height);
  const surface = new Float32Array(width * height);
  for (let k = 0; k < rest.length; k += 1) {
    surface[k] = valueAt(powers, k, width, height);
    rest[k] = (plane[k] as number) - (surface[k] as number);
  }
  const columns = profile(rest, width, height, width, within, (line, at) => at * width + line);
  for (let k = 0; k < rest.length; k += 1) rest[k] = (rest[k] as number) - (columns[k % width] as number);
  const rows = profile(rest, height, width, height, within, (line, at) => line * width + at);
  for (let k = 0; k < surface.length; k += 1)
    surface[k] = (surface[k] as number) + (columns[k % width] as number) + (rows[Math.floor(k / width)] as number);
  return surface;
}

/** What lines have in common, line by line: the middle of what is near the surface; in the strips at the sides, of all there is. */
function profile(
  rest: Float32Array,
  lines: number,
  length: number,
  of: number,
  within: number,
  index: (line: number, at: number) => number,
): Float32Array {
  const out = new Float32Array(lines);
  const every = Math.max(1, Math.floor(length / 200));
  for (let line = 0; line < lines; line += 1) {
    const strip = line < STRIP * of || line >= (1 - STRIP) * of;
    const near: number[] = [];
    let all = 0;
    for (let at = line % every; at < length; at += every) {
      const v = rest[index(line, at)] as number;
      all += 1;
      if (strip ? Math.abs(v) <= 0.4 : Math.abs(v) <= within) near.push(v);
    }
    const enough = near.length >= (strip ? 0.5 : 0.12) * all;
    const middle = enough ? medianOf(near) : 0;
    out[line] = strip && Math.abs(middle) > within && near.filter((v) => Math.abs(v - middle) <= within).length < 0.5 * all ? 0 : middle;
  }
  return out;
}
