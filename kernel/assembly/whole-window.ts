/* Windows in whole numbers: from samples as they are stored to four a pixel, multiplied by alpha where there is any, their border repeated, every two rows interleaved; and what is drawn back again. */

import { highWords, lowWords } from './words';

/** {@link decode} for RGB of 8 bits into four bytes a pixel, the last 255; reads up to 16 bytes beyond the last sample. */
export function decode8(from: usize, fromStride: i32, to: usize, toStride: i32, width: i32, height: i32): void {
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    const end = q + (width << 2);
    for (; q + 16 <= end; q += 16, p += 12) {
      const four = i8x16.swizzle(v128.load(p), i8x16(0, 1, 2, -1, 3, 4, 5, -1, 6, 7, 8, -1, 9, 10, 11, -1));
      v128.store(q, v128.or(four, i32x4.splat(0xff000000)));
    }
    for (; q < end; q += 4, p += 3) store<u32>(q, load<u32>(p) | 0xff000000);
  }
}

/** {@link decode} for RGB of 16 bits into four words a pixel, less 32768, the last 32767; reads up to 16 bytes beyond the last sample. */
export function decode16(from: usize, fromStride: i32, to: usize, toStride: i32, width: i32, height: i32): void {
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    // an odd row writes one pixel too many, where its border will be
    for (let i = 0; i < width; i += 2, p += 12, q += 16) {
      const two = i8x16.swizzle(v128.load(p), i8x16(0, 1, 2, 3, 4, 5, -1, -1, 6, 7, 8, 9, 10, 11, -1, -1));
      v128.store(q, v128.xor(two, i16x8(-0x8000, -0x8000, -0x8000, 0x7fff, -0x8000, -0x8000, -0x8000, 0x7fff)));
    }
  }
}

/** {@link decode} for grey of 8 or, where `wide`, 16 bits into four equal samples a pixel, wide ones less 32768. */
export function decodeGrey(from: usize, fromStride: i32, to: usize, toStride: i32, width: i32, height: i32, wide: i32): void {
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    if (wide)
      for (const end = q + (width << 3); q < end; q += 8, p += 2)
        v128.store64_lane(q, i16x8.splat(load<u16>(p) ^ 0x8000), 0);
    else for (const end = q + (width << 2); q < end; q += 4, p++) store<u32>(q, <u32>load<u8>(p) * 0x01010101);
  }
}

/**
 * {@link decode} for grey or RGB of 8 bits into four words a pixel of their light.
 * @param light of each sample its light as a word, less 32768
 */
export function decodeLight(
  from: usize,
  fromStride: i32,
  to: usize,
  toStride: i32,
  width: i32,
  height: i32,
  channels: i32,
  light: usize,
): void {
  const second = channels == 3 ? 1 : 0;
  const third = channels == 3 ? 2 : 0;
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    for (const end = q + (width << 3); q < end; q += 8, p += channels) {
      const red = <u64>load<u16>(light + (<usize>load<u8>(p) << 1));
      const green = <u64>load<u16>(light + (<usize>load<u8>(p + second) << 1));
      const blue = <u64>load<u16>(light + (<usize>load<u8>(p + third) << 1));
      store<u64>(q, red | (green << 16) | (blue << 32) | 0x7fff000000000000);
    }
  }
}

/**
 * Rows of words of light as the bytes that they are stored as, in their place.
 * @param samples a row; @param alpha whether every fourth is alpha, which is no light
 * @param stored of each word its byte
 */
export function storeLight(first: usize, stride: i32, samples: i32, rows: i32, alpha: i32, stored: usize): void {
  for (let j = 0; j < rows; j++) {
    const row = first + j * stride;
    for (let i = 0; i < samples; i++) {
      const word = load<u16>(row + (i << 1));
      store<u8>(row + i, alpha && (i & 3) == 3 ? word >> 8 : load<u8>(stored + word));
    }
  }
}

/*
 * Colours that are multiplied by alpha, and alpha: 32768 of a full one, and nothing as 16384 of a word, which leaves room for what filters
 * make of more than full and less than nothing. So less 32768 nothing is -16384.
 */
const NOTHING: i32 = 16384;
const FULL: f32 = 32768;

/** The light of a sample, of 65535, where it lies less 32768. */
@inline
function lightAt(light: usize, sample: usize): i32 {
  return <i32>load<i16>(light + (sample << 1)) + 32768;
}

/**
 * {@link decode} for grey or RGB of 8 bits and alpha into four words a pixel, multiplied.
 * @param channels 2 or 4; @param light of each sample its light as a word, less 32768; 0 for samples as they are
 * @param whole 1 where pixels will be taken as they are: then nothing is multiplied
 */
export function decodeAlpha(
  from: usize,
  fromStride: i32,
  to: usize,
  toStride: i32,
  width: i32,
  height: i32,
  channels: i32,
  light: usize,
  whole: i32,
): void {
  const second = channels == 4 ? 1 : 0;
  const third = channels == 4 ? 2 : 0;
  const bytes = channels == 4 && !light;
  const top = f32x4.splat(bytes ? 255 : 65535);
  const unit = f32x4.div(f32x4.splat(FULL), top);
  const one = f32x4.splat(1);
  const half = f32x4.splat(0.5 - <f32>NOTHING);
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    const end = q + (width << 3);
    do {
      let four: v128;
      if (bytes) four = i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(p)));
      else {
        const red = <usize>load<u8>(p);
        const green = <usize>load<u8>(p + second);
        const blue = <usize>load<u8>(p + third);
        const alpha = 257 * <i32>load<u8>(p + channels - 1);
        four = light
          ? i32x4(lightAt(light, red), lightAt(light, green), lightAt(light, blue), alpha)
          : i32x4(257 * <i32>red, 257 * <i32>green, 257 * <i32>blue, alpha);
      }
      const samples = f32x4.convert_i32x4_s(four);
      const share = whole ? one : f32x4.replace_lane(f32x4.div(v128.shuffle<i32>(samples, samples, 3, 3, 3, 3), top), 3, 1);
      const words = i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.add(f32x4.mul(samples, f32x4.mul(share, unit)), half)));
      v128.store64_lane(q, i16x8.narrow_i32x4_s(words, words), 0);
      q += 8;
      p += channels;
    } while (q < end);
  }
}

/**
 * Rows of words as {@link decodeAlpha} has them, of 32768 more, as bytes, in their place: alpha divided out, or laid over a background.
 * @param channels 1 to 4 of what is stored, alpha among them where they are even
 * @param behind 1 for a background; @param red, green, blue its light, or what it is stored as, of 65535
 * @param stored of each word of light its byte; 0 for samples as they are; @param whole 1 where nothing was multiplied
 */
export function storeAlpha(
  first: usize,
  stride: i32,
  width: i32,
  rows: i32,
  channels: i32,
  behind: i32,
  red: i32,
  green: i32,
  blue: i32,
  stored: usize,
  whole: i32,
): void {
  const one = f32x4.splat(1);
  const none = f32x4.splat(0);
  const colour = f32x4.mul(f32x4.convert_i32x4_s(i32x4(red, green, blue, 65535)), f32x4.splat(1.0 / 65535.0));
  const top = f32x4.replace_lane(f32x4.splat(stored ? 65535 : 255), 3, 255);
  for (let j = 0; j < rows; j++) {
    let p = first + j * stride;
    let q = p;
    const end = p + (width << 3);
    do {
      const sums = f32x4.convert_i32x4_s(i32x4.sub(v128.load16x4_u(p), i32x4.splat(NOTHING)));
      const alpha = v128.shuffle<i32>(sums, sums, 3, 3, 3, 3);
      // no colour is more than full: near an alpha of nothing, lobes of the filter would leave any
      const full = f32x4.max(none, f32x4.min(one, f32x4.div(sums, whole ? f32x4.splat(FULL) : alpha)));
      let value = v128.and(full, f32x4.gt(alpha, none));
      const share = f32x4.max(none, f32x4.min(one, f32x4.mul(alpha, f32x4.splat(1 / FULL))));
      value = behind
        ? f32x4.add(f32x4.mul(value, share), f32x4.mul(colour, f32x4.sub(one, share)))
        : f32x4.replace_lane(value, 3, f32x4.extract_lane(share, 0));
      const four = i32x4.trunc_sat_f32x4_u(f32x4.add(f32x4.mul(value, top), f32x4.splat(0.5)));
      let pixel: u32;
      if (stored) {
        const r = <u32>load<u8>(stored + i32x4.extract_lane(four, 0));
        const g = <u32>load<u8>(stored + i32x4.extract_lane(four, 1));
        const b = <u32>load<u8>(stored + i32x4.extract_lane(four, 2));
        pixel = r | (g << 8) | (b << 16) | (i32x4.extract_lane(four, 3) << 24);
      } else {
        const words = i16x8.narrow_i32x4_u(four, four);
        pixel = i32x4.extract_lane(i8x16.narrow_i16x8_u(words, words), 0);
      }
      // what runs over lies where the next pixel is stored
      if (channels > 2) store<u32>(q, pixel);
      else {
        store<u8>(q, <u8>pixel);
        if (channels == 2) store<u8>(q, <u8>(pixel >> 24), 1);
      }
      p += 8;
      q += channels;
    } while (p < end);
  }
}

/** Rows of RGBA of 8 bits as they are with colours multiplied by alpha: for drafts, colours of faint pixels in coarse steps. */
export function multiplyByAlpha(from: usize, fromStride: i32, to: usize, toStride: i32, width: i32, height: i32): void {
  const opaque = i32x4.splat(0xff000000);
  const half = i16x8.splat(128);
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    // up to three pixels too many, where the next row or the border will be
    const end = q + (width << 2);
    do {
      const four = v128.load(p);
      const alpha = v128.or(i8x16.shuffle(four, four, 3, 3, 3, 3, 7, 7, 7, 7, 11, 11, 11, 11, 15, 15, 15, 15), opaque);
      // times 255 and rounded: a 256th of it added, and half
      let low = i16x8.add(i16x8.extmul_low_i8x16_u(four, alpha), half);
      let high = i16x8.add(i16x8.extmul_high_i8x16_u(four, alpha), half);
      low = i16x8.shr_u(i16x8.add(low, i16x8.shr_u(low, 8)), 8);
      high = i16x8.shr_u(i16x8.add(high, i16x8.shr_u(high, 8)), 8);
      v128.store(q, i8x16.narrow_i16x8_u(low, high));
      p += 16;
      q += 16;
    } while (q < end);
  }
}

/** {@link repeatBorder} for pixels of four bytes, or of four words where `wide`. */
export function repeatBorderWhole(
  first: usize,
  stride: i32,
  width: i32,
  height: i32,
  left: i32,
  right: i32,
  above: i32,
  below: i32,
  wide: i32,
): void {
  const shift = wide ? 3 : 2;
  for (let j = 0; j < height; j++) {
    const row = first + j * stride;
    const last = row + ((width - 1) << shift);
    if (wide) {
      for (let k = 1; k <= left; k++) store<u64>(row - (k << 3), load<u64>(row));
      for (let k = 1; k <= right; k++) store<u64>(last + (k << 3), load<u64>(last));
    } else {
      for (let k = 1; k <= left; k++) store<u32>(row - (k << 2), load<u32>(row));
      for (let k = 1; k <= right; k++) store<u32>(last + (k << 2), load<u32>(last));
    }
  }
  const start = first - (left << shift);
  const bytes = (left + width + right) << shift;
  for (let k = 1; k <= above; k++) memory.copy(start - k * stride, start, bytes);
  const bottom = start + (height - 1) * stride;
  for (let k = 1; k <= below; k++) memory.copy(bottom + k * stride, bottom, bytes);
}

/**
 * Every two rows of a window of four bytes a pixel interleaved, as {@link lowWords}: for each pixel red of this row, red of the next, green, green, ...
 * @param width pixels a row; up to three more are written beyond each; @param height rows of the result, one less than of the window
 */
export function pairRows(from: usize, fromStride: i32, to: usize, toStride: i32, width: i32, height: i32): void {
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    const end = p + (width << 2);
    for (; p < end; p += 16, q += 64) {
      const a = v128.load(p);
      const b = v128.load(p + fromStride);
      const first = i8x16.shuffle(a, b, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
      const last = i8x16.shuffle(a, b, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31);
      v128.store(q, lowWords(first));
      v128.store(q, highWords(first), 16);
      v128.store(q, lowWords(last), 32);
      v128.store(q, highWords(last), 48);
    }
  }
}

/** {@link pairRows} for four words a pixel. */
export function pairRows16(from: usize, fromStride: i32, to: usize, toStride: i32, width: i32, height: i32): void {
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    const end = p + (width << 3);
    for (; p < end; p += 16, q += 32) {
      const a = v128.load(p);
      const b = v128.load(p + fromStride);
      v128.store(q, i8x16.shuffle(a, b, 0, 1, 16, 17, 2, 3, 18, 19, 4, 5, 20, 21, 6, 7, 22, 23));
      v128.store(q, i8x16.shuffle(a, b, 8, 9, 24, 25, 10, 11, 26, 27, 12, 13, 28, 29, 14, 15, 30, 31), 16);
    }
  }
}

/** Rows of RGBA of 8 bits, whose colours are multiplied by alpha, as they are without; where alpha is nothing nothing is left. */
export function divideByAlpha(first: usize, stride: i32, width: i32, height: i32): void {
  for (let j = 0; j < height; j++) {
    let p = first + j * stride;
    for (const end = p + (width << 2); p < end; p += 4) {
      const pixel = load<u32>(p);
      const alpha = pixel >> 24;
      if (alpha == 255) continue;
      const bytes = i8x16.swizzle(i32x4.splat(pixel), i8x16(0, -1, -1, -1, 1, -1, -1, -1, 2, -1, -1, -1, -1, -1, -1, -1));
      const colour = f32x4.mul(f32x4.convert_i32x4_u(bytes), f32x4.splat(alpha ? 255.0 / <f32>alpha : 0));
      const whole = i32x4.trunc_sat_f32x4_s(f32x4.add(colour, f32x4.splat(0.5)));
      const words = i16x8.narrow_i32x4_s(whole, whole);
      store<u32>(p, (i32x4.extract_lane(i8x16.narrow_i16x8_u(words, words), 0) & 0xffffff) | (alpha << 24));
    }
  }
}
