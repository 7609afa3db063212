import type { Size } from '../picture/point';
import { hasAlpha, largestSample, type Raster } from './raster';
import { kernelName } from './kernel';
import { byColours, type Apart } from './lateral';
import type { PositionMap } from './position-map';
import { resampleRowsFast } from './resample-fast';

/** Distance between exactly mapped nodes, px. */
const STEP = 8;

/**
 * A draft of a view in RGBA 8 bit, transparent where there is nothing. 8-bit colour, with alpha too, goes through the kernel that exports use,
 * bilinear or the nearest pixel. All else (16 bit, grey, no WebAssembly): positions exact at nodes 8 px apart and linear between
 * them, no widening; the source should be a proxy of about the view's own scale.
 *
 * @param map view px -> source px
 * @param memory to be drawn into where it is as large as the draft
 * @param apart where the source's colours lie apart
 */
export function previewPixels(
  source: Raster,
  map: PositionMap,
  size: Size,
  nearest = false,
  memory?: ArrayBuffer | null,
  apart?: Apart | null,
): Uint8ClampedArray<ArrayBuffer> {
  const { width, height } = size;
  const kernel = largestSample(source) === 255 && kernelName() === 'simd';
  const quick = kernel && source.channels >= 3;
  if (apart && !quick) return byColours(apart, 4, source, map, (through) => previewPixels(source, through, size, nearest));
  const bytes = width * height * 4;
  const out = memory?.byteLength === bytes ? new Uint8ClampedArray(memory).fill(0) : new Uint8ClampedArray(bytes);
  if (quick) {
    const request = {
      source,
      map,
      filter: nearest ? 'nearest' : 'bilinear',
      width,
      fromRow: 0,
      toRow: height,
      background: 'transparent',
      outChannels: 4,
      draft: true,
      apart,
      into: new Uint8Array(out.buffer),
    } as const;
    resampleRowsFast(request);
    return out;
  }
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
