import { PIXEL_BYTES, SAMPLES, STAGING, WINDOW, type Kernel } from './kernel';
import { isWide, type Source } from './raster';
import type { Plan } from './tile-plan';

/** Copies the plan's part of the source into the kernel's memory. */
function stage({ bytes }: Kernel, { width, height, channels, data, held = height }: Source, plan: Plan): Staged {
  const wide = data instanceof Uint16Array ? 1 : 0;
  const [x0, y0] = [Math.max(0, plan.left), Math.max(0, plan.top)];
  const [x1, y1] = [Math.min(width, plan.left + plan.width), Math.min(height, plan.top + plan.height)];
  const from = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
  const rowBytes = ((x1 - x0) * channels) << wide;
  for (let y = y0; y < y1; y += 1) {
    const at = (((y % held) * width + x0) * channels) << wide;
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

/** The plan's window as four floats a pixel; `light`: where a table of the light of each sample lies, 0 for samples as they are. */
export function fillWindow(here: Kernel, source: Source, plan: Plan, light: number): void {
  const { rowBytes, columns, rows, left, right, above, below } = stage(here, source, plan);
  const stride = plan.width * PIXEL_BYTES;
  const first = WINDOW + above * stride + left * PIXEL_BYTES;
  here.exports.decode(STAGING, rowBytes, first, stride, columns, rows, source.channels, isWide(source), light);
  here.exports.repeatBorder(first, stride, columns, rows, left, right, above, below);
}

/** A window in whole numbers in the kernel's memory. */
export interface WholeWindow {
  readonly at: number;
  /** Bytes a row. */
  readonly stride: number;
  /** Its first column in the source. */
  readonly left: number;
}

/** What becomes of alpha of 8 bits. */
export interface AlphaForm {
  /** For drafts as bytes, colours of faint pixels in coarse steps; else as words. */
  readonly wide: 0 | 1;
  /** 1 where pixels are taken as they are, and colours not multiplied by it. */
  readonly whole: 0 | 1;
}

/**
 * The plan's window as four samples a pixel.
 * @param light where a table of the light of samples of 8 bits lies, whose 16 bits are taken then, 0 for as they are
 * @param alpha null where there is none
 */
export function fillWindowWhole(here: Kernel, source: Source, plan: Plan, light: number, alpha: AlphaForm | null): WholeWindow {
  const { rowBytes, columns, rows, left, right, above, below } = stage(here, source, plan);
  const { exports } = here;
  const wide = alpha ? alpha.wide : light ? 1 : isWide(source);
  const pixelBytes = 4 << wide;
  // an even number of pixels keeps wide ones from writing into the next row's first
  const stride = (plan.width + (plan.width & 1)) * pixelBytes;
  const first = SAMPLES + above * stride + left * pixelBytes;
  if (alpha?.wide) exports.decodeAlpha(STAGING, rowBytes, first, stride, columns, rows, source.channels, light, alpha.whole);
  else if (alpha?.whole)
    for (let j = 0; j < rows; j += 1) here.bytes.copyWithin(first + j * stride, STAGING + j * rowBytes, STAGING + (j + 1) * rowBytes);
  else if (alpha) exports.multiplyByAlpha(STAGING, rowBytes, first, stride, columns, rows);
  else if (light) exports.decodeLight(STAGING, rowBytes, first, stride, columns, rows, source.channels, light);
  else if (source.channels === 1) exports.decodeGrey(STAGING, rowBytes, first, stride, columns, rows, wide);
  else (wide ? exports.decode16 : exports.decode8)(STAGING, rowBytes, first, stride, columns, rows);
  exports.repeatBorderWhole(first, stride, columns, rows, left, right, above, below, wide);
  return { at: SAMPLES, stride, left: plan.left };
}

/** The plan's window, which has to lie inside of the source, as the source has it. */
export function windowAsItLies(here: Kernel, source: Source, plan: Plan): WholeWindow {
  return { at: STAGING, stride: stage(here, source, plan).rowBytes, left: plan.left };
}

/**
 * The colours of a window, or the grey, each by itself and with the sample below.
 * @param samples a pixel's in the window; three only of 8 bits
 */
export function planesOf(
  here: Kernel,
  window: WholeWindow,
  plan: Plan,
  wide: 0 | 1,
  count: 1 | 3,
  samples: 3 | 4 = 4,
): readonly WholeWindow[] {
  const stride = plan.width * 4;
  const bytes = stride * plan.height;
  here.exports.planePairs(window.at, window.stride, WINDOW, stride, plan.width, plan.height - 1, count, bytes, wide, samples);
  return Array.from({ length: count }, (_, k) => ({ at: WINDOW + k * bytes, stride, left: plan.left }));
}

/** Some columns of a window, source px, with every two rows interleaved. */
export function pairedColumns(here: Kernel, window: WholeWindow, plan: Plan, wide: 0 | 1, from: number, to: number): WholeWindow {
  const left = Math.max(plan.left, from);
  const width = Math.min(plan.left + plan.width, to) - left;
  const pair = wide ? here.exports.pairRows16 : here.exports.pairRows;
  const stride = width * PIXEL_BYTES;
  pair(window.at + ((left - plan.left) << (wide + 2)), window.stride, WINDOW, stride, width, plan.height - 1);
  return { at: WINDOW, stride, left };
}
