/*
 * The resampling kernel, in AssemblyScript, compiled to WebAssembly with SIMD. It works on a window: a piece of the source decoded to
 * four 32-bit floats a pixel (red, green, blue, alpha; colour multiplied by alpha where there is alpha), with the border pixels repeated
 * round it, so that no tap ever needs a bounds check. Whoever calls it lays out the memory; nothing is allocated here.
 */

import { POSITION_BITS, POSITION_ONE } from './positions';

export * from './planes';
export * from './turn';
export * from './whole';
export * from './whole-window';

/** Bytes of one pixel in the window. */
const PIXEL: i32 = 16;
/** 8 bits of a position choose the phase of a weight table (of 256), 10 more the way to the next one. */
const PHASE_SHIFT: i32 = 10;
const WAY: f32 = 1.0 / 1024.0;

/**
 * Decodes rows of interleaved samples into the window.
 *
 * @param from first sample; rows lie `fromStride` bytes apart
 * @param to first pixel of the first row, after its left border; rows lie `toStride` bytes apart
 * @param channels 1 grey, 2 grey and alpha, 3 RGB, 4 RGB and alpha
 * @param wide 1 for 16-bit samples; @param light where the light of each sample lies as f32, 0 for samples as they are
 */
export function decode(
  from: usize,
  fromStride: i32,
  to: usize,
  toStride: i32,
  width: i32,
  height: i32,
  channels: i32,
  wide: i32,
  light: usize,
): void {
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    if (channels == 3 && !wide && !light) {
      for (let i = 0; i < width; i++, p += 3, q += PIXEL) {
        const four = i32x4.splat(<i32>load<u32>(p));
        const bytes = i8x16.swizzle(four, i8x16(0, -1, -1, -1, 1, -1, -1, -1, 2, -1, -1, -1, -1, -1, -1, -1));
        v128.store(q, f32x4.convert_i32x4_u(bytes));
      }
      continue;
    }
    for (let i = 0; i < width; i++, q += PIXEL) {
      let r: f32 = 0;
      let g: f32 = 0;
      let b: f32 = 0;
      let a: f32 = 0;
      if (wide) {
        r = <f32>load<u16>(p);
        if (channels >= 3) {
          g = <f32>load<u16>(p, 2);
          b = <f32>load<u16>(p, 4);
        }
        if (channels == 2) a = <f32>load<u16>(p, 2);
        if (channels == 4) a = <f32>load<u16>(p, 6);
      } else {
        r = <f32>load<u8>(p);
        if (channels >= 3) {
          g = <f32>load<u8>(p, 1);
          b = <f32>load<u8>(p, 2);
        }
        if (channels == 2) a = <f32>load<u8>(p, 1);
        if (channels == 4) a = <f32>load<u8>(p, 3);
      }
      if (light) {
        r = load<f32>(light + (<usize>r << 2));
        g = load<f32>(light + (<usize>g << 2));
        b = load<f32>(light + (<usize>b << 2));
      }
      if (channels == 2 || channels == 4) {
        r *= a;
        g *= a;
        b *= a;
      }
      store<f32>(q, r);
      store<f32>(q, g, 4);
      store<f32>(q, b, 8);
      store<f32>(q, a, 12);
      p += channels << wide;
    }
  }
}

/** Repeats border pixels: `left` and `right` columns beside rows of `width` pixels, then `above` and `below` whole rows. */
export function repeatBorder(first: usize, stride: i32, width: i32, height: i32, left: i32, right: i32, above: i32, below: i32): void {
  for (let j = 0; j < height; j++) {
    const row = first + j * stride;
    const one = v128.load(row);
    for (let k = 1; k <= left; k++) v128.store(row - k * PIXEL, one);
    const last = row + (width - 1) * PIXEL;
    const end = v128.load(last);
    for (let k = 1; k <= right; k++) v128.store(last + k * PIXEL, end);
  }
  const start = first - left * PIXEL;
  const bytes = (left + width + right) * PIXEL;
  for (let k = 1; k <= above; k++) memory.copy(start - k * stride, start, bytes);
  const bottom = start + (height - 1) * stride;
  for (let k = 1; k <= below; k++) memory.copy(bottom + k * stride, bottom, bytes);
}

/* What {@link tile} says of all cells that follow. */
let window: usize = 0;
let windowStride: i32 = 0;
let outStride: i32 = 0;
let outChannels: i32 = 0;
let outWide: i32 = 0;
let alphaIn: i32 = 0;
let top: f32 = 255;
let hasBehind: i32 = 0;
let behind: v128 = f32x4.splat(0);
/* Where the transfer curve lies: light of each sample, stored values over the root of the light; 0 where samples are taken as they are. */
let lightTable: usize = 0;
let storedTable: usize = 0;
let boundLeft: i32 = 0;
let boundTop: i32 = 0;
let boundRight: i32 = 0;
let boundBottom: i32 = 0;

/** What holds for all cells of a tile. */
export function tile(
  window_: usize,
  windowStride_: i32,
  outStride_: i32,
  outChannels_: i32,
  outWide_: i32,
  alphaIn_: i32,
  hasBehind_: i32,
  r: f32,
  g: f32,
  b: f32,
  light: usize,
  stored: usize,
  left: f64,
  top_: f64,
  right: f64,
  bottom: f64,
): void {
  window = window_;
  windowStride = windowStride_;
  outStride = outStride_;
  outChannels = outChannels_;
  outWide = outWide_;
  alphaIn = alphaIn_;
  top = outWide_ ? 65535 : 255;
  hasBehind = hasBehind_;
  behind = f32x4(r, g, b, top);
  lightTable = light;
  storedTable = stored;
  boundLeft = <i32>(left * POSITION_ONE);
  boundTop = <i32>(top_ * POSITION_ONE);
  boundRight = <i32>(right * POSITION_ONE);
  boundBottom = <i32>(bottom * POSITION_ONE);
}

/** Writes one pixel: colour and alpha as floats in the samples' range, rounded and clamped. */
@inline
function put(to: usize, value: v128): void {
  const whole = i32x4.trunc_sat_f32x4_u(f32x4.add(f32x4.max(value, f32x4.splat(0)), f32x4.splat(0.5)));
  const words = i16x8.narrow_i32x4_u(whole, whole);
  if (outWide) {
    if (outChannels >= 3) {
      v128.store64_lane(to, words, 0);
    } else {
      store<u16>(to, i16x8.extract_lane_u(words, 0));
      if (outChannels == 2) store<u16>(to, i16x8.extract_lane_u(words, 3), 2);
    }
    return;
  }
  const small = i16x8.min_u(words, i16x8.splat(255));
  const bytes = i8x16.narrow_i16x8_u(small, small);
  if (outChannels >= 3) {
    v128.store32_lane(to, bytes, 0);
  } else {
    store<u8>(to, i8x16.extract_lane_u(bytes, 0));
    if (outChannels == 2) store<u8>(to, i8x16.extract_lane_u(bytes, 3), 1);
  }
}

/** Steps of the table of stored values. */
const ROOT_STEPS: f32 = 4096;

/** A stored value from its light, both 0..top. */
@inline
function storedOf(light: f32): f32 {
  const place = sqrt<f32>(min<f32>(1, max<f32>(0, light / top))) * ROOT_STEPS;
  const step = <i32>place;
  const at = storedTable + (<usize>step << 2);
  const low = load<f32>(at);
  return low + (load<f32>(at, 4) - low) * (place - <f32>step);
}

/** Three colours' stored values from their light; alpha stays. */
@inline
function stored(value: v128): v128 {
  if (!storedTable) return value;
  value = f32x4.replace_lane(value, 0, storedOf(f32x4.extract_lane(value, 0)));
  value = f32x4.replace_lane(value, 1, storedOf(f32x4.extract_lane(value, 1)));
  return f32x4.replace_lane(value, 2, storedOf(f32x4.extract_lane(value, 2)));
}

/** The background's light. */
@inline
function behindLight(): v128 {
  if (!lightTable) return behind;
  const r = load<f32>(lightTable + (<usize>f32x4.extract_lane(behind, 0) << 2));
  const g = load<f32>(lightTable + (<usize>f32x4.extract_lane(behind, 1) << 2));
  const b = load<f32>(lightTable + (<usize>f32x4.extract_lane(behind, 2) << 2));
  return f32x4(r, g, b, top);
}

/** From the weighted sum of a pixel's taps to what is written: alpha divided out, or laid over the background. */
@inline
function finish(to: usize, sum: v128): void {
  if (!alphaIn) {
    put(to, stored(f32x4.replace_lane(sum, 3, top)));
    return;
  }
  const sa = f32x4.extract_lane(sum, 3);
  // no colour is more than full: near an alpha of nothing, lobes of the filter would leave any
  const colour = sa > 0 ? f32x4.max(f32x4.splat(0), f32x4.min(f32x4.splat(top), f32x4.div(sum, f32x4.splat(sa)))) : f32x4.splat(0);
  const share: f32 = sa <= 0 ? 0 : sa >= top ? 1 : sa / top;
  if (hasBehind) {
    const laid = f32x4.add(f32x4.mul(colour, f32x4.splat(share)), f32x4.mul(behindLight(), f32x4.splat(1 - share)));
    put(to, stored(f32x4.replace_lane(laid, 3, top)));
  } else put(to, stored(f32x4.replace_lane(colour, 3, share * top)));
}

@inline
function nothing(to: usize): void {
  put(to, hasBehind ? behind : f32x4.splat(0));
}

/** Four weights between two rows of a table. */
@inline
function between(row: usize, step: usize, t: v128): v128 {
  const low = v128.load(row);
  return f32x4.add(low, f32x4.mul(f32x4.sub(v128.load(row + step), low), t));
}

@inline
function splat0(v: v128): v128 {
  return i8x16.shuffle(v, v, 0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3);
}
@inline
function splat1(v: v128): v128 {
  return i8x16.shuffle(v, v, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7);
}
@inline
function splat2(v: v128): v128 {
  return i8x16.shuffle(v, v, 8, 9, 10, 11, 8, 9, 10, 11, 8, 9, 10, 11, 8, 9, 10, 11);
}
@inline
function splat3(v: v128): v128 {
  return i8x16.shuffle(v, v, 12, 13, 14, 15, 12, 13, 14, 15, 12, 13, 14, 15, 12, 13, 14, 15);
}

/** Sum of one row of two, four or six taps. */
@inline
function row2(p: usize, w0: v128, w1: v128): v128 {
  return f32x4.add(f32x4.mul(v128.load(p), w0), f32x4.mul(v128.load(p, 16), w1));
}
@inline
function row4(p: usize, w0: v128, w1: v128, w2: v128, w3: v128): v128 {
  return f32x4.add(row2(p, w0, w1), f32x4.add(f32x4.mul(v128.load(p, 32), w2), f32x4.mul(v128.load(p, 48), w3)));
}
@inline
function row6(p: usize, w0: v128, w1: v128, w2: v128, w3: v128, w4: v128, w5: v128): v128 {
  return f32x4.add(row4(p, w0, w1, w2, w3), f32x4.add(f32x4.mul(v128.load(p, 64), w4), f32x4.mul(v128.load(p, 80), w5)));
}

/**
 * Resamples one cell: positions lie between those of its four corners.
 *
 * @param ax .. dy window positions at the corners (top left, top right, bottom left, bottom right), px, pixel centres at whole numbers,
 *   not below -1 and below 8191; the right and lower corners lie one step beyond the cell's last pixel
 * @param step pixels from corner to corner; `columns`, `rows` how many of them are wanted
 * @param tapsX, tapsY taps of the kernel, even; @param tableX, tableY its weights: a row of taps (padded to four) for each phase
 * @param tested 1 where pixels may lie outside the source
 */
export function cell(
  ax: f64,
  ay: f64,
  bx: f64,
  by: f64,
  cx: f64,
  cy: f64,
  dx: f64,
  dy: f64,
  step: i32,
  columns: i32,
  rows: i32,
  tapsX: i32,
  tapsY: i32,
  tableX: usize,
  tableY: usize,
  scratch: usize,
  out: usize,
  pixelBytes: i32,
  tested: i32,
): void {
  const rowBytesX: i32 = ((tapsX + 3) & ~3) << 2;
  const rowBytesY: i32 = ((tapsY + 3) & ~3) << 2;
  const leftX = (tapsX >> 1) - 1;
  const leftY = (tapsY >> 1) - 1;
  const equal = tapsX == tapsY;
  const share: f64 = 1.0 / <f64>step;
  const direct = !alphaIn && !outWide && outChannels >= 3 && !storedTable;
  const base = window;
  const stride = windowStride;
  for (let j = 0; j < rows; j++) {
    const t = <f64>j * share;
    const x0 = ax + (cx - ax) * t;
    const y0 = ay + (cy - ay) * t;
    let x = <i32>(x0 * POSITION_ONE + 0.5);
    let y = <i32>(y0 * POSITION_ONE + 0.5);
    const sx = <i32>floor<f64>((bx + (dx - bx) * t - x0) * share * POSITION_ONE + 0.5);
    const sy = <i32>floor<f64>((by + (dy - by) * t - y0) * share * POSITION_ONE + 0.5);
    let to = out + j * outStride;
    for (let i = 0; i < columns; i++, x += sx, y += sy, to += pixelBytes) {
      if (tested && !(x >= boundLeft && y >= boundTop && x <= boundRight && y <= boundBottom)) {
        nothing(to);
        continue;
      }
      const px = (x >> PHASE_SHIFT) & 255;
      const py = (y >> PHASE_SHIFT) & 255;
      const tx = f32x4.splat(<f32>(x & 1023) * WAY);
      const ty = f32x4.splat(<f32>(y & 1023) * WAY);
      const wx = tableX + px * rowBytesX;
      const wy = tableY + py * rowBytesY;
      let p = base + ((y >> POSITION_BITS) - leftY) * stride + ((x >> POSITION_BITS) - leftX) * PIXEL;
      let sum: v128;
      if (equal && tapsX == 6) {
        const u = between(wx, rowBytesX, tx);
        const u2 = between(wx + 16, rowBytesX, tx);
        const v = between(wy, rowBytesY, ty);
        const v2 = between(wy + 16, rowBytesY, ty);
        const w0 = splat0(u);
        const w1 = splat1(u);
        const w2 = splat2(u);
        const w3 = splat3(u);
        const w4 = splat0(u2);
        const w5 = splat1(u2);
        sum = f32x4.mul(row6(p, w0, w1, w2, w3, w4, w5), splat0(v));
        p += stride;
        sum = f32x4.add(sum, f32x4.mul(row6(p, w0, w1, w2, w3, w4, w5), splat1(v)));
        p += stride;
        sum = f32x4.add(sum, f32x4.mul(row6(p, w0, w1, w2, w3, w4, w5), splat2(v)));
        p += stride;
        sum = f32x4.add(sum, f32x4.mul(row6(p, w0, w1, w2, w3, w4, w5), splat3(v)));
        p += stride;
        sum = f32x4.add(sum, f32x4.mul(row6(p, w0, w1, w2, w3, w4, w5), splat0(v2)));
        p += stride;
        sum = f32x4.add(sum, f32x4.mul(row6(p, w0, w1, w2, w3, w4, w5), splat1(v2)));
      } else if (equal && tapsX == 4) {
        const u = between(wx, rowBytesX, tx);
        const v = between(wy, rowBytesY, ty);
        const w0 = splat0(u);
        const w1 = splat1(u);
        const w2 = splat2(u);
        const w3 = splat3(u);
        sum = f32x4.mul(row4(p, w0, w1, w2, w3), splat0(v));
        p += stride;
        sum = f32x4.add(sum, f32x4.mul(row4(p, w0, w1, w2, w3), splat1(v)));
        p += stride;
        sum = f32x4.add(sum, f32x4.mul(row4(p, w0, w1, w2, w3), splat2(v)));
        p += stride;
        sum = f32x4.add(sum, f32x4.mul(row4(p, w0, w1, w2, w3), splat3(v)));
      } else if (equal && tapsX == 2) {
        const u = between(wx, rowBytesX, tx);
        const v = between(wy, rowBytesY, ty);
        const w0 = splat0(u);
        const w1 = splat1(u);
        sum = f32x4.add(f32x4.mul(row2(p, w0, w1), splat0(v)), f32x4.mul(row2(p + stride, w0, w1), splat1(v)));
      } else if (equal && tapsX == 8) {
        const u = between(wx, rowBytesX, tx);
        const u2 = between(wx + 16, rowBytesX, tx);
        const w0 = splat0(u);
        const w1 = splat1(u);
        const w2 = splat2(u);
        const w3 = splat3(u);
        const w4 = splat0(u2);
        const w5 = splat1(u2);
        const w6 = splat2(u2);
        const w7 = splat3(u2);
        v128.store(scratch, between(wy, rowBytesY, ty));
        v128.store(scratch, between(wy + 16, rowBytesY, ty), 16);
        sum = f32x4.splat(0);
        for (let m: usize = 0; m < 32; m += 4, p += stride) {
          const line = f32x4.add(
            row6(p, w0, w1, w2, w3, w4, w5),
            f32x4.add(f32x4.mul(v128.load(p, 96), w6), f32x4.mul(v128.load(p, 112), w7)),
          );
          sum = f32x4.add(sum, f32x4.mul(line, v128.load32_splat(scratch + m)));
        }
      } else {
        // a widened kernel: its weights for this pixel first, then taps by the row
        for (let k = 0; k < rowBytesX; k += 16) v128.store(scratch + k, between(wx + k, rowBytesX, tx));
        const weightsY = scratch + rowBytesX;
        for (let k = 0; k < rowBytesY; k += 16) v128.store(weightsY + k, between(wy + k, rowBytesY, ty));
        sum = f32x4.splat(0);
        for (let m = 0; m < tapsY; m++, p += stride) {
          let line = f32x4.splat(0);
          for (let k = 0; k < tapsX; k += 2) {
            const q = p + k * PIXEL;
            line = f32x4.add(
              line,
              f32x4.add(
                f32x4.mul(v128.load(q), v128.load32_splat(scratch + (k << 2))),
                f32x4.mul(v128.load(q, 16), v128.load32_splat(scratch + (k << 2), 4)),
              ),
            );
          }
          sum = f32x4.add(sum, f32x4.mul(line, v128.load32_splat(weightsY + (m << 2))));
        }
      }
      if (direct) {
        // the bulk: opaque, 8 bit, colour
        const whole = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.replace_lane(sum, 3, 255), f32x4.splat(0.5)));
        const words = i16x8.narrow_i32x4_s(whole, whole);
        v128.store32_lane(to, i8x16.narrow_i16x8_u(words, words), 0);
      } else finish(to, sum);
    }
  }
}
