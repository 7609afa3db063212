import type { Size } from '../picture/point';
import { hasAlpha, largestSample, type Raster } from './raster';
import type { PositionMap } from './resample';

/** Distance between exactly mapped nodes, px. */
const STEP = 8;

/**
 * A draft of a view in RGBA 8 bit: positions exact at nodes 8 px apart and linear between them, bilinear samples (or the nearest pixel),
 * no widening: the source should be a proxy of about the view's own scale. Transparent where there is nothing. Cells with a node that
 * has no image are mapped pixel by pixel.
 *
 * @param map view px -> source px
 */
export function previewPixels(source: Raster, map: PositionMap, size: Size, nearest = false): Uint8ClampedArray<ArrayBuffer> {
  const { width, height } = size;
  const out = new Uint8ClampedArray(width * height * 4);
  const columns = Math.ceil(width / STEP) + 1;
  const nodes = [new Float64Array(columns * 2), new Float64Array(columns * 2)] as [Float64Array, Float64Array];
  const p = new Float64Array(2);
  const fillNodes = (row: Float64Array, y: number): void => {
    for (let i = 0; i < columns; i += 1) {
      const ok = map(i * STEP + 0.5, y + 0.5, p);
      row[2 * i] = ok ? (p[0] as number) : NaN;
      row[2 * i + 1] = ok ? (p[1] as number) : NaN;
    }
  };
  const sample = nearest ? nearestSampler(source) : bilinearSampler(source);
  const fillCell = nearest ? null : opaqueCells(source, out, width);
  fillNodes(nodes[0], 0);
  for (let j0 = 0; j0 < height; j0 += STEP) {
    fillNodes(nodes[1], j0 + STEP);
    const [upper, lower] = nodes;
    const rows = Math.min(STEP, height - j0);
    for (let i = 0; i + 1 < columns; i += 1) {
      const i0 = i * STEP;
      const cells = Math.min(STEP, width - i0);
      const ax = upper[2 * i] as number;
      const ay = upper[2 * i + 1] as number;
      const bx = upper[2 * i + 2] as number;
      const by = upper[2 * i + 3] as number;
      const cx = lower[2 * i] as number;
      const cy = lower[2 * i + 1] as number;
      const dx = lower[2 * i + 2] as number;
      const dy = lower[2 * i + 3] as number;
      if (Number.isNaN(ax + bx + cx + dx)) {
        for (let j = 0; j < rows; j += 1) {
          for (let k = 0; k < cells; k += 1)
            if (map(i0 + k + 0.5, j0 + j + 0.5, p)) sample(p[0] as number, p[1] as number, out, ((j0 + j) * width + i0 + k) * 4);
        }
        continue;
      }
      if (fillCell?.(j0 * width + i0, rows, cells, ax, ay, bx, by, cx, cy, dx, dy)) continue;
      for (let j = 0; j < rows; j += 1) {
        const t = j / STEP;
        let x = ax + (cx - ax) * t;
        let y = ay + (cy - ay) * t;
        const sx = (bx + (dx - bx) * t - x) / STEP;
        const sy = (by + (dy - by) * t - y) / STEP;
        let to = ((j0 + j) * width + i0) * 4;
        for (let k = 0; k < cells; k += 1, x += sx, y += sy, to += 4) sample(x, y, out, to);
      }
    }
    nodes.reverse();
  }
  return out;
}

/** Positions count in 1/32768 px: the largest picture's still fit 31 bits. */
const FIXED = 32768;

type CellFiller = (
  to: number,
  rows: number,
  cells: number,
  ax: number,
  ay: number,
  bx: number,
  by: number,
  cx: number,
  cy: number,
  dx: number,
  dy: number,
) => boolean;

/**
 * The quick way for the bulk of a photograph: cells of an opaque 8-bit RGB source that lie wholly inside it, in whole numbers, within two
 * steps of {@link bilinearSampler}. The filler answers false for a cell that it leaves to the general way; null for other sources.
 */
function opaqueCells({ width, height, channels, data }: Raster, out: Uint8ClampedArray<ArrayBuffer>, outWidth: number): CellFiller | null {
  if (channels !== 3 || data instanceof Uint16Array) return null;
  const pixels = new Uint32Array(out.buffer);
  if (new Uint8Array(new Uint32Array([1]).buffer)[0] !== 1) return null;
  const row = width * 3;
  const inside = (x: number, y: number): boolean => x >= 0.5 && y >= 0.5 && x < width - 0.51 && y < height - 0.51;
  return (to, rows, cells, ax, ay, bx, by, cx, cy, dx, dy) => {
    if (!(inside(ax, ay) && inside(bx, by) && inside(cx, cy) && inside(dx, dy))) return false;
    for (let j = 0; j < rows; j += 1) {
      const t = j / STEP;
      const x = ax + (cx - ax) * t;
      const y = ay + (cy - ay) * t;
      let u = ((x - 0.5) * FIXED) | 0;
      let v = ((y - 0.5) * FIXED) | 0;
      const su = Math.round(((bx + (dx - bx) * t - x) / STEP) * FIXED);
      const sv = Math.round(((by + (dy - by) * t - y) / STEP) * FIXED);
      const from = to + j * outWidth;
      for (let k = from; k < from + cells; k += 1) {
        const p = (v >> 15) * row + (u >> 15) * 3;
        const fx = (u >> 7) & 255;
        const fy = (v >> 7) & 255;
        const wd = fx * fy;
        const wb = (fx << 8) - wd;
        const wc = (fy << 8) - wd;
        const wa = 65536 - wb - wc - wd;
        const q = p + row;
        const red = wa * (data[p] as number) + wb * (data[p + 3] as number) + wc * (data[q] as number) + wd * (data[q + 3] as number);
        const green =
          wa * (data[p + 1] as number) + wb * (data[p + 4] as number) + wc * (data[q + 1] as number) + wd * (data[q + 4] as number);
        const blue =
          wa * (data[p + 2] as number) + wb * (data[p + 5] as number) + wc * (data[q + 2] as number) + wd * (data[q + 5] as number);
        pixels[k] = 0xff000000 | (((blue + 32768) >> 16) << 16) | (((green + 32768) >> 16) << 8) | ((red + 32768) >> 16);
        u += su;
        v += sv;
      }
    }
    return true;
  };
}

type DraftSampler = (x: number, y: number, out: Uint8ClampedArray, to: number) => void;

function bilinearSampler(source: Raster): DraftSampler {
  const { width, height, channels, data } = source;
  const scale = largestSample(source) === 255 ? 1 : 255 / 65535;
  const alphaAt = hasAlpha(source) ? channels - 1 : -1;
  const second = channels >= 3 ? 1 : 0;
  const third = channels >= 3 ? 2 : 0;
  const right = width - 1;
  const bottom = height - 1;
  return (x, y, out, to) => {
    if (!(x >= 0 && y >= 0 && x <= width && y <= height)) return;
    const u = x - 0.5 < 0 ? 0 : x - 0.5 > right ? right : x - 0.5;
    const v = y - 0.5 < 0 ? 0 : y - 0.5 > bottom ? bottom : y - 0.5;
    const i = u | 0;
    const j = v | 0;
    const fx = u - i;
    const fy = v - j;
    const a = (j * width + i) * channels;
    const b = i < right ? a + channels : a;
    const c = j < bottom ? a + width * channels : a;
    const d = c + b - a;
    const wa = (1 - fx) * (1 - fy) * scale;
    const wb = fx * (1 - fy) * scale;
    const wc = (1 - fx) * fy * scale;
    const wd = fx * fy * scale;
    out[to] = wa * (data[a] as number) + wb * (data[b] as number) + wc * (data[c] as number) + wd * (data[d] as number);
    out[to + 1] =
      wa * (data[a + second] as number) +
      wb * (data[b + second] as number) +
      wc * (data[c + second] as number) +
      wd * (data[d + second] as number);
    out[to + 2] =
      wa * (data[a + third] as number) +
      wb * (data[b + third] as number) +
      wc * (data[c + third] as number) +
      wd * (data[d + third] as number);
    out[to + 3] =
      alphaAt < 0
        ? 255
        : wa * (data[a + alphaAt] as number) +
          wb * (data[b + alphaAt] as number) +
          wc * (data[c + alphaAt] as number) +
          wd * (data[d + alphaAt] as number);
  };
}

function nearestSampler(source: Raster): DraftSampler {
  const { width, height, channels, data } = source;
  const scale = largestSample(source) === 255 ? 1 : 255 / 65535;
  const alphaAt = hasAlpha(source) ? channels - 1 : -1;
  return (x, y, out, to) => {
    if (!(x >= 0 && y >= 0 && x < width && y < height)) return;
    const at = (Math.floor(y) * width + Math.floor(x)) * channels;
    for (let c = 0; c < 3; c += 1) out[to + c] = (data[channels >= 3 ? at + c : at] as number) * scale;
    out[to + 3] = alphaAt < 0 ? 255 : (data[at + alphaAt] as number) * scale;
  };
}
