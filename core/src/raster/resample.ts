import type { FilterName } from '../correction/schema';
import { FILTERS, PHASES, phaseTable, tabulate, tabulated } from './filters';
import { byColours, type Apart } from './lateral';
import type { PositionMap } from './position-map';
import { hasAlpha, isWide, largestSample, type Raster, type Source } from './raster';
import { fromLight, lightOf, toLight, type Light } from './transfer';

/** What to resample. */
export interface ResampleRequest {
  readonly source: Source;
  /** Output -> source, px. */
  readonly map: PositionMap;
  readonly filter: FilterName;
  /** Width of the output, px. */
  readonly width: number;
  /** Rows from (inclusive) to (exclusive). */
  readonly fromRow: number;
  readonly toRow: number;
  /** Colour under empty and transparent pixels, one value a colour channel in the source's samples; or 'transparent'. */
  readonly background: readonly number[] | 'transparent';
  /** Channels of the result: with alpha only when asked for. */
  readonly outChannels: Raster['channels'];
  /** Leaves the filter as narrow as it is where the result is smaller than the source, and lets the quick way's positions be off by more. */
  readonly draft?: boolean;
  /** Where the source's colours lie apart, each is drawn from where it lies; `outChannels` is 3 or 4 then. */
  readonly apart?: Apart | null | undefined;
  /** What is averaged; samples by default. */
  readonly light?: Light | undefined;
  /** Where the rows go: zeros, of the source's depth, exactly as many samples as there are; new memory by default. */
  readonly into?: Uint8Array | Uint16Array | undefined;
}

/** Zeros of a source's depth. */
export const samplesFor = (source: Raster, length: number): Uint8Array | Uint16Array =>
  largestSample(source) === 255 ? new Uint8Array(length) : new Uint16Array(length);

/** Cells for which one widening holds, output px. */
export const CELL = 16;
/** Beyond this widening the kernel would gather too many pixels; halve the source first. */
const LARGEST_WIDENING = 16;

const distanceTables = new Map<FilterName, Float64Array>();
const phaseTables = new Map<FilterName, Float64Array>();

function tableOf(tables: Map<FilterName, Float64Array>, name: FilterName, make: typeof tabulate): Float64Array {
  const known = tables.get(name);
  if (known) return known;
  const made = make(FILTERS[name]);
  tables.set(name, made);
  return made;
}

/**
 * Resamples a band of rows once, in double precision: the reference against which faster kernels are judged.
 *
 * A pixel is empty when its centre maps outside the source; taps beyond the border repeat the border pixel. Colour is weighted by alpha
 * (premultiplied). Where the result is smaller than the source the kernel is widened, per 16 px cell, by the length of the map's rows.
 *
 * @returns rows fromRow..toRow as interleaved samples of the source's depth, `outChannels` a pixel
 */
export function resampleRows(request: ResampleRequest): Uint8Array | Uint16Array {
  if (request.apart) return inColours(request, resampleRows);
  if (request.filter === 'nearest') return resampleRows({ ...request, filter: 'bilinear', map: ontoPixels(request), draft: true });
  const { source, map, width, fromRow, toRow, outChannels } = request;
  const rows = toRow - fromRow;
  const out = request.into ?? samplesFor(source, width * rows * outChannels);
  const sampler = makeSampler(request);
  const plain =
    request.light === 'linear' || hasAlpha(source) || outChannels !== source.channels ? null : makeInnerSampler(source, request.filter);
  const position = new Float64Array(2);
  const cell = new Float64Array(2);
  for (let j0 = 0; j0 < rows; j0 += CELL) {
    const j1 = Math.min(rows, j0 + CELL);
    for (let i0 = 0; i0 < width; i0 += CELL) {
      const i1 = Math.min(width, i0 + CELL);
      if (widens(request)) widening(map, i0, fromRow + j0, cell);
      else cell.fill(1);
      const wx = cell[0] as number;
      const wy = cell[1] as number;
      const inner = plain && wx === 1 && wy === 1;
      for (let j = j0; j < j1; j += 1) {
        for (let i = i0; i < i1; i += 1) {
          const to = (j * width + i) * outChannels;
          if (map(i + 0.5, fromRow + j + 0.5, position)) {
            const x = position[0] as number;
            const y = position[1] as number;
            if (!(inner && plain(x, y, out, to))) sampler(x, y, wx, wy, out, to);
          } else sampler(NaN, NaN, 1, 1, out, to);
        }
      }
    }
  }
  return out;
}

/** Draws each colour by itself and puts them together. */
export function inColours(
  request: ResampleRequest,
  draw: (request: ResampleRequest) => Uint8Array | Uint16Array,
): Uint8Array | Uint16Array {
  const { apart, map, source, outChannels, into } = request;
  if (!apart) return draw(request);
  const drawn = byColours(apart, outChannels as 3 | 4, source, map, (through) =>
    draw({ ...request, apart: null, map: through, into: undefined }),
  );
  into?.set(drawn);
  return into ?? drawn;
}

/** Positions moved to the centre of the pixel that they lie in: nothing is left to interpolate. */
function ontoPixels({ source: { width, height }, map }: ResampleRequest): PositionMap {
  return (x, y, out) => {
    if (!map(x, y, out)) return false;
    const [sx, sy] = [out[0] as number, out[1] as number];
    if (sx >= 0 && sx <= width) out[0] = Math.min(width - 1, Math.floor(sx)) + 0.5;
    if (sy >= 0 && sy <= height) out[1] = Math.min(height - 1, Math.floor(sy)) + 0.5;
    return true;
  };
}

/** Whether small differences show: in 16 bits, whose steps are fine, and in linear light, where steps of dark tones are. */
export const isFine = ({ source, light }: ResampleRequest): boolean => isWide(source) === 1 || light === 'linear';

/** Whether the filter is widened where the result is smaller than the source. */
export const widens = ({ draft, filter }: ResampleRequest): boolean => !draft && filter !== 'nearest';

/** Widenings count in these, so that kernels with tables of weights need few of them. */
const WIDENING_STEPS = 64;

/**
 * Widening of the kernel in source x and y for the cell that begins at an output position, 1 or more: from the pixels at its corners, where a
 * warp grid of any step has nodes; from those about its middle where corners have no image.
 */
export function widening(map: PositionMap, cellX: number, cellY: number, out: Float64Array): void {
  const p = new Float64Array(2);
  const read = (dx: number, dy: number): Corner | null =>
    map(cellX + 0.5 + dx, cellY + 0.5 + dy, p) ? [p[0] as number, p[1] as number] : null;
  for (const [from, to] of [
    [0, CELL],
    [CELL / 2 - 1, CELL / 2 + 1],
  ] as const) {
    const [a, b, c, d] = [read(from, from), read(to, from), read(from, to), read(to, to)];
    if (!a || !b || !c || !d) continue;
    out[0] = widenedBetween(a[0], b[0], c[0], d[0], to - from);
    out[1] = widenedBetween(a[1], b[1], c[1], d[1], to - from);
    return;
  }
  out.fill(1);
}

type Corner = readonly [number, number];

/** Widening along x or y of the source from its values at four corners, row by row, so many pixels apart. */
export const widenedBetween = (a: number, b: number, c: number, d: number, apart: number): number =>
  widened((b - a + d - c) / (2 * apart), (c - a + d - b) / (2 * apart));

/** Widening from how far a source coordinate moves for one pixel across and one down. */
export function widened(across: number, down: number): number {
  const scale = Math.sqrt(across * across + down * down);
  return scale > 1.001 ? Math.min(LARGEST_WIDENING, Math.round(scale * WIDENING_STEPS) / WIDENING_STEPS) : 1;
}

type InnerSampler = (x: number, y: number, out: Uint8Array | Uint16Array, to: number) => boolean;

/**
 * The short way for the bulk of a picture: no alpha, no widening, all taps inside. Same arithmetic as the general way, with the weights
 * of a row of taps interpolated between two phases. Returns false where it does not apply.
 */
function makeInnerSampler(source: Source, name: FilterName): InnerSampler {
  const { width, height, channels, data, held = height } = source;
  const radius = FILTERS[name].radius;
  const taps = 2 * radius;
  const table = tableOf(phaseTables, name, phaseTable);
  const top = largestSample(source);
  const stride = width * channels;
  const wx = new Float64Array(taps);
  const wy = new Float64Array(taps);
  const weigh = (fraction: number, weights: Float64Array): void => {
    const phase = fraction * PHASES;
    const row = Math.floor(phase);
    const t = phase - row;
    const at = row * taps;
    for (let k = 0; k < taps; k += 1) weights[k] = (table[at + k] as number) * (1 - t) + (table[at + taps + k] as number) * t;
  };
  const clampSample = (v: number): number => (v <= 0 ? 0 : v >= top ? top : Math.round(v));
  return (x, y, out, to) => {
    const cx = Math.floor(x - 0.5);
    const cy = Math.floor(y - 0.5);
    const x0 = cx - radius + 1;
    const y0 = cy - radius + 1;
    if (!(x0 >= 0 && y0 >= 0 && x0 + taps <= width && y0 + taps <= height)) return false;
    weigh(x - 0.5 - cx, wx);
    weigh(y - 0.5 - cy, wy);
    const left = x0 * channels;
    if (channels === 3) {
      let r = 0;
      let g = 0;
      let b = 0;
      for (let j = 0; j < taps; j += 1) {
        const at = ((y0 + j) % held) * stride + left;
        let hr = 0;
        let hg = 0;
        let hb = 0;
        for (let i = 0, p = at; i < taps; i += 1, p += 3) {
          const w = wx[i] as number;
          hr += w * (data[p] as number);
          hg += w * (data[p + 1] as number);
          hb += w * (data[p + 2] as number);
        }
        const w = wy[j] as number;
        r += w * hr;
        g += w * hg;
        b += w * hb;
      }
      out[to] = clampSample(r);
      out[to + 1] = clampSample(g);
      out[to + 2] = clampSample(b);
      return true;
    }
    let v = 0;
    for (let j = 0; j < taps; j += 1) {
      const at = ((y0 + j) % held) * stride + left;
      let h = 0;
      for (let i = 0; i < taps; i += 1) h += (wx[i] as number) * (data[at + i] as number);
      v += (wy[j] as number) * h;
    }
    out[to] = clampSample(v);
    return true;
  };
}

type Sampler = (x: number, y: number, wx: number, wy: number, out: Uint8Array | Uint16Array, to: number) => void;

function makeSampler({ source, filter: name, outChannels, background, light }: ResampleRequest): Sampler {
  const { width, height, channels, data, held = height } = source;
  const table = tableOf(distanceTables, name, tabulate);
  const radius = FILTERS[name].radius;
  const top = largestSample(source);
  const alphaIn = hasAlpha(source);
  const colours = alphaIn ? channels - 1 : channels;
  const alphaOut = outChannels === 2 || outChannels === 4;
  const outColours = alphaOut ? outChannels - 1 : outChannels;
  const behind = background === 'transparent' ? null : background;
  const curve = light === 'linear' ? lightOf(top) : null;
  const valueOf = (sample: number): number => (curve ? (curve[sample] as number) : sample);
  const laidOver = behind?.map((v) => (curve ? toLight(v / top) * top : v));
  const weightsX = new Float64Array(2 * Math.ceil(radius * LARGEST_WIDENING) + 4);
  const weightsY = new Float64Array(weightsX.length);
  const sums = new Float64Array(4);

  const fill = (weights: Float64Array, first: number, count: number, centre: number, widen: number): number => {
    let sum = 0;
    for (let k = 0; k < count; k += 1) {
      const w = tabulated(table, (first + k + 0.5 - centre) / widen);
      weights[k] = w;
      sum += w;
    }
    return sum;
  };

  return (x, y, wx, wy, out, to) => {
    if (!(x >= 0 && x <= width && y >= 0 && y <= height)) {
      for (let c = 0; c < outColours; c += 1) out[to + c] = behind ? (behind[Math.min(c, behind.length - 1)] as number) : 0;
      if (alphaOut) out[to + outColours] = behind ? top : 0;
      return;
    }
    const [rx, ry] = [radius * wx, radius * wy];
    const x0 = Math.ceil(x - rx - 0.5);
    const y0 = Math.ceil(y - ry - 0.5);
    const nx = Math.floor(x + rx - 0.5) - x0 + 1;
    const ny = Math.floor(y + ry - 0.5) - y0 + 1;
    const norm = 1 / (fill(weightsX, x0, nx, x, wx) * fill(weightsY, y0, ny, y, wy));
    let [s0, s1, s2, sa] = [0, 0, 0, 0];
    const clear = x0 >= 0 && y0 >= 0 && x0 + nx <= width && y0 + ny <= height;
    for (let j = 0; j < ny; j += 1) {
      const wj = weightsY[j] as number;
      if (wj === 0) continue;
      const row = ((clear ? y0 + j : Math.min(height - 1, Math.max(0, y0 + j))) % held) * width;
      for (let i = 0; i < nx; i += 1) {
        let w = wj * (weightsX[i] as number);
        const at = (row + (clear ? x0 + i : Math.min(width - 1, Math.max(0, x0 + i)))) * channels;
        if (alphaIn) {
          w *= data[at + colours] as number;
          sa += w;
        }
        s0 += w * valueOf(data[at] as number);
        if (colours === 3) {
          s1 += w * valueOf(data[at + 1] as number);
          s2 += w * valueOf(data[at + 2] as number);
        }
      }
    }
    sums[0] = s0;
    sums[1] = s1;
    sums[2] = s2;
    const alpha = alphaIn ? Math.min(1, Math.max(0, (sa * norm) / top)) : 1;
    for (let c = 0; c < outColours; c += 1) {
      const sum = sums[colours === 1 ? 0 : c] as number;
      // no colour is more than full: near an alpha of nothing, lobes of the filter would leave any
      let value = alphaIn ? (sa > 0 ? Math.min(top, Math.max(0, sum / sa)) : 0) : sum * norm;
      if (alphaIn && laidOver) value = value * alpha + (laidOver[Math.min(c, laidOver.length - 1)] as number) * (1 - alpha);
      if (curve) value = fromLight(Math.max(0, value / top)) * top;
      out[to + c] = value <= 0 ? 0 : value >= top ? top : Math.round(value);
    }
    if (alphaOut) out[to + outColours] = behind ? top : Math.round(alpha * top);
  };
}
