import { levelsOf, type Point, type Raster } from '@able-plumb/core';
import { Luck } from '../places/luck';

type Colour = readonly [number, number, number];
type Corners = readonly [Point, Point, Point, Point];

/** A print on a scanner's bed. */
export interface HeapPrint {
  /** What it shows; stretched over the print, less its border. */
  readonly picture: Raster;
  readonly centreMm: Point;
  readonly widthMm: number;
  readonly heightMm: number;
  /** How it lies, degrees anticlockwise as seen. */
  readonly angleDeg: number;
  /** White border, mm; 0 for none. */
  readonly borderMm: number;
  /** Colour of the paper, 0..255. */
  readonly paper: Colour;
  readonly roundMm?: number;
  /** A corner that is torn off, by the length of its legs, mm; top left as the print lies. */
  readonly tornMm?: number;
  /** By how much the paper's edge wanders, mm. */
  readonly roughMm?: number;
}

/** A scan of prints under a lid. */
export interface Heap {
  readonly widthMm: number;
  readonly heightMm: number;
  readonly ppi: number;
  readonly lid: Colour;
  /** Deviation of the lid's grain, and of the sensor's noise, steps of 255. */
  readonly grain: number;
  readonly noise: number;
  /** Share of light that is lost towards the corners; and along the left side, over some mm. */
  readonly falloff: number;
  readonly sideShadow: number;
  /** How dark the thin shadow is that paper throws on the lid, to its right and below, 0..1. */
  readonly printShadow: number;
  readonly dust: number;
  readonly seed: number;
  readonly prints: readonly HeapPrint[];
}

/** Where a print lies: its corners and those of what it shows, top left, top right, bottom right, bottom left as the print is seen; px. */
export interface HeapTruth {
  readonly corners: Corners;
  readonly inner: Corners;
  readonly angleDeg: number;
}

/** Where the prints of a heap lie. */
export function heapTruth({ ppi, prints }: Pick<Heap, 'ppi' | 'prints'>): HeapTruth[] {
  return prints.map(({ centreMm, widthMm, heightMm, angleDeg, borderMm }) => {
    const [c, s] = [Math.cos((angleDeg * Math.PI) / 180), Math.sin((angleDeg * Math.PI) / 180)];
    const box = (w: number, h: number): Corners => {
      const at = (x: number, y: number): Point => [
        ((centreMm[0] + c * x + s * y) * ppi) / 25.4,
        ((centreMm[1] - s * x + c * y) * ppi) / 25.4,
      ];
      return [at(-w, -h), at(w, -h), at(w, h), at(-w, h)];
    };
    return {
      corners: box(widthMm / 2, heightMm / 2),
      inner: box(widthMm / 2 - borderMm, heightMm / 2 - borderMm),
      angleDeg,
    };
  });
}

/** The scan, 8 bits of RGB. Edges lie to a fraction of a pixel where {@link heapTruth} says; later prints lie on earlier ones. */
export function composeHeap(heap: Heap): Raster & { readonly data: Uint8Array } {
  const scale = heap.ppi / 25.4;
  const [width, height] = [Math.round(heap.widthMm * scale), Math.round(heap.heightMm * scale)];
  const light = new Float32Array(width * height * 3);
  layLid(light, width, height, heap);
  for (const print of heap.prints) layPrint(light, width, height, print, heap);
  dirty(light, width, height, heap);
  const luck = new Luck(heap.seed + 7919);
  // a long row of normal numbers, begun anew at random for every line, is as good as one for each sample
  const bell = Float32Array.from({ length: 65536 }, () => luck.normal() * heap.noise);
  const data = new Uint8Array(width * height * 3);
  for (let y = 0, k = 0; y < height; y += 1) {
    let b = luck.whole(0, 65535);
    for (let i = 0; i < 3 * width; i += 1, k += 1, b += 1) {
      const v = (light[k] as number) + (bell[b & 65535] as number);
      data[k] = v < 0 ? 0 : v > 255 ? 255 : v + 0.5;
    }
  }
  return { width, height, channels: 3, data };
}

function layLid(light: Float32Array, width: number, height: number, { lid, grain, falloff, sideShadow, ppi, seed }: Heap): void {
  const luck = new Luck(seed + 104729);
  const cloth = Float32Array.from({ length: 4096 }, () => luck.normal() * grain);
  const reach = (3 * ppi) / 25.4;
  for (let y = 0, k = 0; y < height; y += 1) {
    const v = (2 * y) / height - 1;
    // cloth of about a third of a millimetre
    const row = Math.floor((y * 75) / ppi) * 37;
    for (let x = 0; x < width; x += 1, k += 3) {
      const u = (2 * x) / width - 1;
      const share = (1 - falloff * (u * u + v * v) * 0.5) * (1 - sideShadow * Math.exp(-x / reach));
      const g = cloth[(row + Math.floor((x * 75) / ppi)) & 4095] as number;
      for (let c = 0; c < 3; c += 1) light[k + c] = (lid[c] as number) * share + g;
    }
  }
}

function layPrint(light: Float32Array, width: number, height: number, print: HeapPrint, heap: Heap): void {
  const scale = heap.ppi / 25.4;
  const { centreMm, angleDeg, borderMm, paper, picture, roundMm = 0, tornMm = 0, roughMm = 0 } = print;
  const [w, h] = [(print.widthMm / 2) * scale, (print.heightMm / 2) * scale];
  const [cx, cy] = [centreMm[0] * scale, centreMm[1] * scale];
  const [c, s] = [Math.cos((angleDeg * Math.PI) / 180), Math.sin((angleDeg * Math.PI) / 180)];
  const border = borderMm * scale;
  const [iw, ih] = [w - border, h - border];
  const level = nearestLevel(picture, 2 * iw);
  const luck = new Luck(heap.seed + Math.round(cx * 7 + cy * 13));
  const waves = Array.from({ length: 12 }, () => [luck.between(0.6, 4), luck.between(0, 6.3), luck.normal()] as const);
  const wander = (t: number): number =>
    roughMm === 0 ? 0 : (roughMm * scale * waves.reduce((sum, [f, p, a]) => sum + a * Math.sin((t / scale) * f + p), 0)) / 4;
  const tear = tornMm * scale;
  const round = roundMm * scale;
  const shadowPx = 0.18 * scale;
  const reach = Math.hypot(w, h) + 4 * shadowPx + 2;
  for (let y = Math.max(0, Math.floor(cy - reach)); y < Math.min(height, cy + reach); y += 1) {
    for (let x = Math.max(0, Math.floor(cx - reach)); x < Math.min(width, cx + reach); x += 1) {
      const dx = x + 0.5 - cx;
      const dy = y + 0.5 - cy;
      // along and across the print
      const u = c * dx - s * dy;
      const v = s * dx + c * dy;
      let off = Math.max(Math.abs(u) - w, Math.abs(v) - h);
      if (off > 4 * shadowPx + 2) continue;
      if (round > 0) {
        const [a, b] = [Math.abs(u) - w + round, Math.abs(v) - h + round];
        if (a > 0 && b > 0) off = Math.hypot(a, b) - round;
      }
      if (tear > 0) off = Math.max(off, (tear - (u + w) - (v + h)) / Math.SQRT2);
      if (roughMm > 0) off += wander(Math.abs(u) - w > Math.abs(v) - h ? v : u);
      const k = (y * width + x) * 3;
      if (off > 0.5) {
        // thrown to the right and below as the scan is seen
        const away = Math.max(0, (dx - c * clamp(u, w) - s * clamp(v, h) + (dy + s * clamp(u, w) - c * clamp(v, h))) / (Math.SQRT2 * off));
        const dark = 1 - heap.printShadow * (0.25 + 0.75 * Math.min(1, away)) * Math.exp(-off / shadowPx);
        for (let i = 0; i < 3; i += 1) light[k + i] = (light[k + i] as number) * dark;
        continue;
      }
      const covers = Math.min(1, 0.5 - off);
      const inside = Math.min(1, Math.max(0, 0.5 - (Math.abs(u) - iw))) * Math.min(1, Math.max(0, 0.5 - (Math.abs(v) - ih)));
      for (let i = 0; i < 3; i += 1) {
        const shown = inside > 0 ? sample(level, (u / iw + 1) / 2, (v / ih + 1) / 2, i) : 0;
        const of = inside * shown + (1 - inside) * (paper[i] as number);
        light[k + i] = (light[k + i] as number) * (1 - covers) + of * covers;
      }
    }
  }
}

const clamp = (v: number, most: number): number => Math.max(-most, Math.min(most, v));

/** The picture at about the size at which it is shown. */
function nearestLevel(picture: Raster, widthPx: number): Raster {
  return levelsOf(picture, Math.max(1, Math.ceil((Math.max(picture.width, picture.height) / picture.width) * widthPx * 1.9))).at(
    -1,
  ) as Raster;
}

/** A sample of a picture at a share of its width and height, bilinear. */
function sample({ width, height, channels, data }: Raster, u: number, v: number, c: number): number {
  const x = Math.min(width - 1.001, Math.max(0, u * width - 0.5));
  const y = Math.min(height - 1.001, Math.max(0, v * height - 0.5));
  const i = Math.floor(x);
  const j = Math.floor(y);
  const fx = x - i;
  const fy = y - j;
  const k = (j * width + i) * channels + (channels >= 3 ? c : 0);
  const below = width * channels;
  // no arrow in here: it would be made anew for every sample
  const upper = (data[k] as number) * (1 - fx) + (data[k + channels] as number) * fx;
  const lower = (data[k + below] as number) * (1 - fx) + (data[k + below + channels] as number) * fx;
  return upper * (1 - fy) + lower * fy;
}

/** Dust, and a hair or two. */
function dirty(light: Float32Array, width: number, height: number, { dust, ppi, seed }: Heap): void {
  const luck = new Luck(seed + 1299709);
  const scale = ppi / 25.4;
  const spot = (x: number, y: number, r: number, tone: number): void => {
    for (let j = Math.max(0, Math.floor(y - r)); j < Math.min(height, y + r); j += 1)
      for (let i = Math.max(0, Math.floor(x - r)); i < Math.min(width, x + r); i += 1)
        if (Math.hypot(i - x, j - y) <= r) for (let c = 0; c < 3; c += 1) light[(j * width + i) * 3 + c] = tone;
  };
  for (let n = 0; n < dust; n += 1)
    spot(
      luck.next() * width,
      luck.next() * height,
      luck.between(0.04, 0.35) * scale,
      luck.chance(0.5) ? luck.between(20, 90) : luck.between(180, 240),
    );
  for (let n = 0; n < dust / 40; n += 1) {
    let [x, y, way] = [luck.next() * width, luck.next() * height, luck.between(0, 6.3)];
    const tone = luck.between(30, 200);
    for (let step = 0; step < 12 * scale; step += 1) {
      spot(x, y, Math.max(0.7, 0.05 * scale), tone);
      way += luck.normal() * 0.08;
      x += Math.cos(way);
      y += Math.sin(way);
    }
  }
}
