import { PIXEL_BYTES, SAMPLES, STAGING, WINDOW, type Kernel } from './kernel';
import { largestSample, type Raster } from './raster';
import type { Plan } from './tile-plan';

/** 1 for samples of 16 bits. */
export const isWide = (source: Raster): 0 | 1 => (largestSample(source) === 65535 ? 1 : 0);

/** Copies the plan's part of the source into the kernel's memory. */
function stage({ bytes }: Kernel, { width, height, channels, data }: Raster, plan: Plan): Staged {
  const wide = data instanceof Uint16Array ? 1 : 0;
  const [x0, y0] = [Math.max(0, plan.left), Math.max(0, plan.top)];
  const [x1, y1] = [Math.min(width, plan.left + plan.width), Math.min(height, plan.top + plan.height)];
  const from = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
  const rowBytes = ((x1 - x0) * channels) << wide;
  for (let y = y0; y < y1; y += 1) {
    const at = ((y * width + x0) * channels) << wide;
    bytes.set(from.subarray(at, at + rowBytes), STAGING + (y - y0) * rowBytes);
  }
  return {
    rowBytes,
    columns: x1 - x0,
    rows: y1 - y0,
    left: x0 - plan.left,
    right: plan.left + plan.width - x1,
    above: y0 - plan.top,
    below: plan.top + plan.height - y1,
  };
}

/** What was copied, and how far the plan reaches beyond it: there the border is repeated. */
interface Staged {
  readonly rowBytes: number;
  readonly columns: number;
  readonly rows: number;
  readonly left: number;
  readonly right: number;
  readonly above: number;
  readonly below: number;
}

/** The plan's window as four floats a pixel. */
export function fillWindow(here: Kernel, source: Raster, plan: Plan): void {
  const { rowBytes, columns, rows, left, right, above, below } = stage(here, source, plan);
  const stride = plan.width * PIXEL_BYTES;
  const first = WINDOW + above * stride + left * PIXEL_BYTES;
  here.exports.decode(STAGING, rowBytes, first, stride, columns, rows, source.channels, isWide(source));
  here.exports.repeatBorder(first, stride, columns, rows, left, right, above, below);
}

/** A window in whole numbers in the kernel's memory. */
export interface WholeWindow {
  readonly at: number;
  /** Bytes a row. */
  readonly stride: number;
  /** Whether every two rows are interleaved; where all kernels have two taps of 8 bits it takes longer than it saves. */
  readonly paired: boolean;
}

/** The plan's window as four samples a pixel. */
export function fillWindowWhole(here: Kernel, source: Raster, plan: Plan): WholeWindow {
  const { rowBytes, columns, rows, left, right, above, below } = stage(here, source, plan);
  const { exports } = here;
  const wide = isWide(source);
  const pixelBytes = 4 << wide;
  // an even number of pixels keeps wide ones from writing into the next row's first
  const stride = (plan.width + (plan.width & 1)) * pixelBytes;
  const first = SAMPLES + above * stride + left * pixelBytes;
  const decode = wide ? exports.decode16 : exports.decode8;
  decode(STAGING, rowBytes, first, stride, columns, rows);
  exports.repeatBorderWhole(first, stride, columns, rows, left, right, above, below, wide);
  if (plan.mostTaps === 2 && !wide) return { at: SAMPLES, stride, paired: false };
  const paired = { at: WINDOW, stride: plan.width * PIXEL_BYTES, paired: true };
  const pair = wide ? exports.pairRows16 : exports.pairRows;
  pair(SAMPLES, stride, paired.at, paired.stride, plan.width, plan.height - 1);
  return paired;
}
