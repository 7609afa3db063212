import { rotationFromAttitude, type Attitude, type Raster } from '@able-plumb/core';
import { type Light, type Metres, type Surface } from './surfaces';

/** A camera at the origin of a place; angles in degrees, focal length in px. */
export interface PlaceCamera {
  readonly attitude: Attitude;
  readonly focalPx: number;
  readonly width: number;
  readonly height: number;
}

/**
 * Samples lie on a lattice of this many a pixel each way, turned by an angle that no edge has: on an upright one a steep edge would come
 * out plumb for as far as it stays between two columns.
 */
const FINE = 2;
const TURNED = 0.4637;
const [COS, SIN] = [Math.cos(TURNED) / FINE, Math.sin(TURNED) / FINE];
/** Deviation of the optics' blur beside the pixel's own square, px. */
const BLUR_PX = 0.6;

const dot = (a: Metres, b: Metres): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const minus = (a: Metres, b: Metres): Metres => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a: Metres, b: Metres): Metres => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];

/** What is seen of a surface: linear forms of lattice steps, u and v (0..1) over the depth, and one over the depth. */
interface Seen {
  readonly surface: Surface;
  readonly lengths: readonly [number, number];
  readonly forms: readonly [Metres, Metres, Metres];
}

/** A linear form of picture px as one of lattice steps. */
const onLattice = ([a, b, c]: Metres): Metres => [a * COS + b * SIN, b * COS - a * SIN, c];

function seenOf(surface: Surface, camera: PlaceCamera): Seen | null {
  const { width, height, focalPx } = camera;
  const m = rotationFromAttitude(camera.attitude);
  const [f, cx, cy] = [focalPx, width / 2, height / 2];
  const { corner, along, down } = surface;
  // a ray t d meets corner + u along + v down: by Cramer's rule everything over d . (along x down)
  const normal = cross(along, down);
  const ofRay = (d: Metres): Metres => {
    // of picture px, d(x, y) = R [(x - cx) / f, (y - cy) / f, 1]; then of lattice steps
    const c = [m[0] * d[0] + m[3] * d[1] + m[6] * d[2], m[1] * d[0] + m[4] * d[1] + m[7] * d[2], m[2] * d[0] + m[5] * d[1] + m[8] * d[2]];
    const [a, b, k] = c as [number, number, number];
    return onLattice([a / f, b / f, k - (a * cx + b * cy) / f]);
  };
  const volume = dot(corner, normal);
  if (Math.abs(volume) < 1e-12) return null;
  const over = (p: Metres): Metres => [p[0] / volume, p[1] / volume, p[2] / volume];
  const forms = [over(ofRay(cross(down, corner))), over(ofRay(cross(corner, along))), over(ofRay(normal))] as const;
  return { surface, lengths: [Math.hypot(...along), Math.hypot(...down)], forms };
}

/** The steps of a lattice row, from one to before another, at which no form is negative. */
function span(forms: readonly Metres[], j: number, least: number, most: number): readonly [number, number] {
  let [from, to] = [least, most];
  for (const [a, b, c] of forms) {
    const rest = b * j + c;
    if (a > 0) from = Math.max(from, Math.ceil(-rest / a));
    else if (a < 0) to = Math.min(to, Math.floor(-rest / a) + 1);
    else if (rest < 0) return [0, 0];
  }
  return [from, Math.max(from, to)];
}

/** The lattice rows, from one to before another, that a parallelogram may come into: all of them where it reaches behind the camera. */
function rowsOf([fu, fv, fw]: Seen['forms'], least: number, most: number): readonly [number, number] {
  // at lattice place i, j a corner has u : v : 1 as the forms fu : fv : fw; by Cramer's rule, solved for i, j and the inverse of the depth
  const down: number[] = [];
  for (const [u, v] of [
    [0, 0],
    [1, 0],
    [0, 1],
    [1, 1],
  ] as const) {
    const [a, b] = [
      [fu[0] - u * fw[0], fu[1] - u * fw[1], fu[2] - u * fw[2]],
      [fv[0] - v * fw[0], fv[1] - v * fw[1], fv[2] - v * fw[2]],
    ] as readonly [Metres, Metres];
    const [x, y, w] = cross(a, b);
    const [i, j] = [x / w, y / w];
    if (!(fw[0] * i + fw[1] * j + fw[2] > 1e-9)) return [least, most];
    down.push(j);
  }
  return [Math.max(least, Math.floor(Math.min(...down)) - 1), Math.min(most, Math.ceil(Math.max(...down)) + 2)];
}

/** In which order surfaces are drawn: those with shapes last, the nearest of them first, so that few shapes are worked out in vain. */
function drawn(surfaces: readonly Surface[]): readonly number[] {
  const far = ({ corner, along, down }: Surface): number => Math.hypot(...corner.map((v, k) => v + ((along[k] ?? 0) + (down[k] ?? 0)) / 2));
  const indices = [...surfaces.keys()];
  const shaped = indices.filter((i) => surfaces[i]?.shape);
  return [
    ...indices.filter((i) => !surfaces[i]?.shape),
    ...shaped.sort((i, k) => far(surfaces[i] as Surface) - far(surfaces[k] as Surface)),
  ];
}

/**
 * Draws a place: the nearest surface at each sample, their mean over each pixel, the optics' blur, and the sRGB curve (IEC 61966-2-1).
 * @param sky what is seen where nothing stands, by elevation and azimuth in degrees
 * @returns 8-bit RGB
 */
export function drawPlace(
  surfaces: readonly Surface[],
  sky: (elevationDeg: number, azimuthDeg: number) => Light,
  camera: PlaceCamera,
): Raster {
  const { width, height, focalPx } = camera;
  // lattice steps i, j lie at picture px (COS i - SIN j, SIN i + COS j)
  const reach = [0, width].flatMap((x) =>
    [0, height].map((y) => [(x * COS + y * SIN) * FINE * FINE, (y * COS - x * SIN) * FINE * FINE] as const),
  );
  const [i0, i1] = [Math.floor(Math.min(...reach.map(([i]) => i))), Math.ceil(Math.max(...reach.map(([i]) => i)))];
  const [j0, j1] = [Math.floor(Math.min(...reach.map(([, j]) => j))), Math.ceil(Math.max(...reach.map(([, j]) => j)))];
  const columns = i1 - i0;
  const nearness = new Float32Array(columns * (j1 - j0));
  const which = new Int32Array(nearness.length).fill(-1);
  const frame = [onLattice([1, 0, 0]), onLattice([0, 1, 0]), onLattice([-1, 0, width - 1e-6]), onLattice([0, -1, height - 1e-6])];
  const all = surfaces.map((surface) => seenOf(surface, camera));
  for (const index of drawn(surfaces)) {
    const seen = all[index];
    if (!seen) continue;
    const [fu, fv, fw] = seen.forms;
    const [lu, lv] = seen.lengths;
    const { shape } = seen.surface;
    const edges = [fu, fv, minus(fw, fu), minus(fw, fv), fw, ...frame];
    const [top, bottom] = rowsOf(seen.forms, j0, j1);
    for (let j = top; j < bottom; j += 1) {
      const [from, to] = span(edges, j, i0, i1);
      const start = fw[1] * j + fw[2];
      for (let i = from, k = (j - j0) * columns + from - i0; i < to; i += 1, k += 1) {
        // the inverse of the depth, which grows towards the camera
        const near = start + fw[0] * i;
        if (near <= (nearness[k] as number)) continue;
        if (shape && !shape(((fu[0] * i + fu[1] * j + fu[2]) / near) * lu, ((fv[0] * i + fv[1] * j + fv[2]) / near) * lv)) continue;
        nearness[k] = near;
        which[k] = index;
      }
    }
  }
  const light = new Float32Array(width * height * 3);
  const samples = new Uint8Array(width * height);
  const m = rotationFromAttitude(camera.attitude);
  for (let j = j0; j < j1; j += 1) {
    const [from, to] = span(frame, j, i0, i1);
    for (let i = from, k = (j - j0) * columns + from - i0; i < to; i += 1, k += 1) {
      const [x, y] = [COS * i - SIN * j, SIN * i + COS * j];
      const seen = all[which[k] as number];
      let at: Light;
      if (seen) {
        const [fu, fv, fw] = seen.forms;
        const near = fw[0] * i + fw[1] * j + fw[2];
        at = seen.surface.look(
          ((fu[0] * i + fu[1] * j + fu[2]) / near) * seen.lengths[0],
          ((fv[0] * i + fv[1] * j + fv[2]) / near) * seen.lengths[1],
        );
      } else {
        const [a, b] = [(x - width / 2) / focalPx, (y - height / 2) / focalPx];
        const d = [m[0] * a + m[1] * b + m[2], m[3] * a + m[4] * b + m[5], m[6] * a + m[7] * b + m[8]] as const;
        at = sky((Math.atan2(-d[1], Math.hypot(d[0], d[2])) * 180) / Math.PI, (Math.atan2(d[0], d[2]) * 180) / Math.PI);
      }
      const pixel = Math.floor(y) * width + Math.floor(x);
      samples[pixel] = (samples[pixel] as number) + 1;
      for (let c = 0; c < 3; c += 1) light[3 * pixel + c] = (light[3 * pixel + c] as number) + (at[c] as number);
    }
  }
  for (let i = 0; i < light.length; i += 1) light[i] = (light[i] as number) / Math.max(1, samples[Math.floor(i / 3)] as number);
  const blurred = blur(light, width, height, BLUR_PX);
  const data = new Uint8Array(light.length);
  for (let i = 0; i < data.length; i += 1) data[i] = byteOf(blurred[i] as number);
  return { width, height, channels: 3, data };
}

/** The sRGB curve. Source: IEC 61966-2-1. */
const encoded = (v: number): number => (v <= 0.0031308 ? Math.max(0, 12.92 * v) : Math.min(1, 1.055 * v ** (1 / 2.4) - 0.055));

/** The byte at the beginning of each of so many steps of light. */
const STEPS = 4096;
const steps = Uint8Array.from({ length: STEPS + 1 }, (_, k) => Math.round(255 * encoded(k / STEPS)));

/** Light as a byte by the sRGB curve. */
function byteOf(light: number): number {
  if (!(light > 0)) return 0;
  const step = Math.min(STEPS, Math.floor(light * STEPS));
  const low = steps[step] as number;
  // most steps of light lie within one byte
  return low === steps[Math.min(STEPS, step + 1)] ? low : Math.round(255 * encoded(light));
}

/** A Gaussian blur, both ways. */
export function blur(values: Float32Array, width: number, height: number, sigma: number): Float32Array {
  const half = Math.ceil(3 * sigma);
  const bells = Array.from({ length: 2 * half + 1 }, (_, k) => Math.exp(-0.5 * ((k - half) / sigma) ** 2));
  const total = bells.reduce((sum, v) => sum + v, 0);
  const weights = Float64Array.from(bells, (v) => v / total);
  const pass = (from: Float32Array, across: boolean): Float32Array => {
    const to = new Float32Array(from.length);
    const [last, step] = across ? [width - 1, 3] : [height - 1, 3 * width];
    for (let y = 0, i = 0; y < height; y += 1)
      for (let x = 0; x < width; x += 1) {
        const at = across ? x : y;
        for (let c = 0; c < 3; c += 1, i += 1) {
          let sum = 0;
          if (at >= half && at <= last - half) {
            for (let k = 0, tap = i - half * step; k < weights.length; k += 1, tap += step)
              sum = Math.fround(sum + (weights[k] as number) * (from[tap] as number));
            to[i] = sum;
            continue;
          }
          for (let k = -half; k <= half; k += 1) {
            const by = at + k < 0 ? -at : at + k > last ? last - at : k;
            sum = Math.fround(sum + (weights[k + half] as number) * (from[i + by * step] as number));
          }
          to[i] = sum;
        }
      }
    return to;
  };
  return pass(pass(values, true), false);
}
