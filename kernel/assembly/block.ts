/*
 * A block of 8 x 8 in eight vectors of 16-bit values, and the cosine transform there and back in whole numbers (13 bits behind the point, after
 * Loeffler, Ligtenberg and Moschytz), as libjpeg's accurate transform counts.
 */

export let v0: v128 = i16x8.splat(0);
export let v1: v128 = i16x8.splat(0);
export let v2: v128 = i16x8.splat(0);
export let v3: v128 = i16x8.splat(0);
export let v4: v128 = i16x8.splat(0);
export let v5: v128 = i16x8.splat(0);
export let v6: v128 = i16x8.splat(0);
export let v7: v128 = i16x8.splat(0);

/** Eight rows of 16-bit values, so many bytes apart. */
@inline
export function loadRows(at: usize, down: usize): void {
  v0 = v128.load(at);
  v1 = v128.load(at + down);
  v2 = v128.load(at + 2 * down);
  v3 = v128.load(at + 3 * down);
  v4 = v128.load(at + 4 * down);
  v5 = v128.load(at + 5 * down);
  v6 = v128.load(at + 6 * down);
  v7 = v128.load(at + 7 * down);
}

@inline
function transpose(): void {
  const a0 = v128.shuffle<i16>(v0, v1, 0, 8, 1, 9, 2, 10, 3, 11);
  const a1 = v128.shuffle<i16>(v0, v1, 4, 12, 5, 13, 6, 14, 7, 15);
  const a2 = v128.shuffle<i16>(v2, v3, 0, 8, 1, 9, 2, 10, 3, 11);
  const a3 = v128.shuffle<i16>(v2, v3, 4, 12, 5, 13, 6, 14, 7, 15);
  const a4 = v128.shuffle<i16>(v4, v5, 0, 8, 1, 9, 2, 10, 3, 11);
  const a5 = v128.shuffle<i16>(v4, v5, 4, 12, 5, 13, 6, 14, 7, 15);
  const a6 = v128.shuffle<i16>(v6, v7, 0, 8, 1, 9, 2, 10, 3, 11);
  const a7 = v128.shuffle<i16>(v6, v7, 4, 12, 5, 13, 6, 14, 7, 15);
  const b0 = v128.shuffle<i32>(a0, a2, 0, 4, 1, 5);
  const b1 = v128.shuffle<i32>(a0, a2, 2, 6, 3, 7);
  const b2 = v128.shuffle<i32>(a1, a3, 0, 4, 1, 5);
  const b3 = v128.shuffle<i32>(a1, a3, 2, 6, 3, 7);
  const b4 = v128.shuffle<i32>(a4, a6, 0, 4, 1, 5);
  const b5 = v128.shuffle<i32>(a4, a6, 2, 6, 3, 7);
  const b6 = v128.shuffle<i32>(a5, a7, 0, 4, 1, 5);
  const b7 = v128.shuffle<i32>(a5, a7, 2, 6, 3, 7);
  v0 = v128.shuffle<i64>(b0, b4, 0, 2);
  v1 = v128.shuffle<i64>(b0, b4, 1, 3);
  v2 = v128.shuffle<i64>(b1, b5, 0, 2);
  v3 = v128.shuffle<i64>(b1, b5, 1, 3);
  v4 = v128.shuffle<i64>(b2, b6, 0, 2);
  v5 = v128.shuffle<i64>(b2, b6, 1, 3);
  v6 = v128.shuffle<i64>(b3, b7, 0, 2);
  v7 = v128.shuffle<i64>(b3, b7, 1, 3);
}

@inline
export function two(p: i16, q: i16): v128 {
  return i16x8(p, q, p, q, p, q, p, q);
}

@inline
export function lows(a: v128, b: v128): v128 {
  return v128.shuffle<i16>(a, b, 0, 8, 1, 9, 2, 10, 3, 11);
}

@inline
export function highs(a: v128, b: v128): v128 {
  return v128.shuffle<i16>(a, b, 4, 12, 5, 13, 6, 14, 7, 15);
}

@inline
function scaled(low: v128, high: v128, shift: i32): v128 {
  const half = i32x4.splat(1 << (shift - 1));
  return i16x8.narrow_i32x4_s(i32x4.shr_s(i32x4.add(low, half), shift), i32x4.shr_s(i32x4.add(high, half), shift));
}

/** The inverse transform along eight vectors. */
@inline
function inverseTransform(shift: i32): void {
  const e0 = lows(v2, v6);
  const e1 = highs(v2, v6);
  const t3l = i32x4.dot_i16x8_s(e0, two(10703, 4433));
  const t3h = i32x4.dot_i16x8_s(e1, two(10703, 4433));
  const t2l = i32x4.dot_i16x8_s(e0, two(4433, -10704));
  const t2h = i32x4.dot_i16x8_s(e1, two(4433, -10704));
  const plus = i16x8.add(v0, v4);
  const minus = i16x8.sub(v0, v4);
  const t0l = i32x4.shl(i32x4.extend_low_i16x8_s(plus), 13);
  const t0h = i32x4.shl(i32x4.extend_high_i16x8_s(plus), 13);
  const t1l = i32x4.shl(i32x4.extend_low_i16x8_s(minus), 13);
  const t1h = i32x4.shl(i32x4.extend_high_i16x8_s(minus), 13);
  const a0l = i32x4.add(t0l, t3l);
  const a0h = i32x4.add(t0h, t3h);
  const a3l = i32x4.sub(t0l, t3l);
  const a3h = i32x4.sub(t0h, t3h);
  const a1l = i32x4.add(t1l, t2l);
  const a1h = i32x4.add(t1h, t2h);
  const a2l = i32x4.sub(t1l, t2l);
  const a2h = i32x4.sub(t1h, t2h);

  const z3 = i16x8.add(v7, v3);
  const z4 = i16x8.add(v5, v1);
  const z0 = lows(z3, z4);
  const z1 = highs(z3, z4);
  const pl = i32x4.dot_i16x8_s(z0, two(-6436, 9633));
  const ph = i32x4.dot_i16x8_s(z1, two(-6436, 9633));
  const ql = i32x4.dot_i16x8_s(z0, two(9633, 6437));
  const qh = i32x4.dot_i16x8_s(z1, two(9633, 6437));
  const s0 = lows(v7, v1);
  const s1 = highs(v7, v1);
  const r0 = lows(v5, v3);
  const r1 = highs(v5, v3);
  const b0l = i32x4.add(i32x4.dot_i16x8_s(s0, two(-4927, -7373)), pl);
  const b0h = i32x4.add(i32x4.dot_i16x8_s(s1, two(-4927, -7373)), ph);
  const b3l = i32x4.add(i32x4.dot_i16x8_s(s0, two(-7373, 4926)), ql);
  const b3h = i32x4.add(i32x4.dot_i16x8_s(s1, two(-7373, 4926)), qh);
  const b1l = i32x4.add(i32x4.dot_i16x8_s(r0, two(-4176, -20995)), ql);
  const b1h = i32x4.add(i32x4.dot_i16x8_s(r1, two(-4176, -20995)), qh);
  const b2l = i32x4.add(i32x4.dot_i16x8_s(r0, two(-20995, 4177)), pl);
  const b2h = i32x4.add(i32x4.dot_i16x8_s(r1, two(-20995, 4177)), ph);

  v0 = scaled(i32x4.add(a0l, b3l), i32x4.add(a0h, b3h), shift);
  v7 = scaled(i32x4.sub(a0l, b3l), i32x4.sub(a0h, b3h), shift);
  v1 = scaled(i32x4.add(a1l, b2l), i32x4.add(a1h, b2h), shift);
  v6 = scaled(i32x4.sub(a1l, b2l), i32x4.sub(a1h, b2h), shift);
  v2 = scaled(i32x4.add(a2l, b1l), i32x4.add(a2h, b1h), shift);
  v5 = scaled(i32x4.sub(a2l, b1l), i32x4.sub(a2h, b1h), shift);
  v3 = scaled(i32x4.add(a3l, b0l), i32x4.add(a3h, b0h), shift);
  v4 = scaled(i32x4.sub(a3l, b0l), i32x4.sub(a3h, b0h), shift);
}

/** The transform along eight vectors; the first pass leaves two bits behind the point, the second takes them away. */
@inline
function transform(first: bool): void {
  const shift = first ? 11 : 15;
  const t0 = i16x8.add(v0, v7);
  const t7 = i16x8.sub(v0, v7);
  const t1 = i16x8.add(v1, v6);
  const t6 = i16x8.sub(v1, v6);
  const t2 = i16x8.add(v2, v5);
  const t5 = i16x8.sub(v2, v5);
  const t3 = i16x8.add(v3, v4);
  const t4 = i16x8.sub(v3, v4);
  const t10 = i16x8.add(t0, t3);
  const t13 = i16x8.sub(t0, t3);
  const t11 = i16x8.add(t1, t2);
  const t12 = i16x8.sub(t1, t2);
  if (first) {
    v0 = i16x8.shl(i16x8.add(t10, t11), 2);
    v4 = i16x8.shl(i16x8.sub(t10, t11), 2);
  } else {
    const half = i16x8.splat(2);
    v0 = i16x8.shr_s(i16x8.add(i16x8.add(t10, t11), half), 2);
    v4 = i16x8.shr_s(i16x8.add(i16x8.sub(t10, t11), half), 2);
  }
  const even0 = lows(t13, t12);
  const even1 = highs(t13, t12);
  v2 = scaled(i32x4.dot_i16x8_s(even0, two(10703, 4433)), i32x4.dot_i16x8_s(even1, two(10703, 4433)), shift);
  v6 = scaled(i32x4.dot_i16x8_s(even0, two(4433, -10704)), i32x4.dot_i16x8_s(even1, two(4433, -10704)), shift);
  const z3 = i16x8.add(t4, t6);
  const z4 = i16x8.add(t5, t7);
  const z0 = lows(z3, z4);
  const z1 = highs(z3, z4);
  const p0 = i32x4.dot_i16x8_s(z0, two(-6436, 9633));
  const p1 = i32x4.dot_i16x8_s(z1, two(-6436, 9633));
  const q0 = i32x4.dot_i16x8_s(z0, two(9633, 6437));
  const q1 = i32x4.dot_i16x8_s(z1, two(9633, 6437));
  const s0 = lows(t4, t7);
  const s1 = highs(t4, t7);
  const r0 = lows(t5, t6);
  const r1 = highs(t5, t6);
  v7 = scaled(i32x4.add(i32x4.dot_i16x8_s(s0, two(-4927, -7373)), p0), i32x4.add(i32x4.dot_i16x8_s(s1, two(-4927, -7373)), p1), shift);
  v1 = scaled(i32x4.add(i32x4.dot_i16x8_s(s0, two(-7373, 4926)), q0), i32x4.add(i32x4.dot_i16x8_s(s1, two(-7373, 4926)), q1), shift);
  v5 = scaled(i32x4.add(i32x4.dot_i16x8_s(r0, two(-4176, -20995)), q0), i32x4.add(i32x4.dot_i16x8_s(r1, two(-4176, -20995)), q1), shift);
  v3 = scaled(i32x4.add(i32x4.dot_i16x8_s(r0, two(-20995, 4177)), p0), i32x4.add(i32x4.dot_i16x8_s(r1, two(-20995, 4177)), p1), shift);
}

/** Both passes: along rows, then along columns. */
@inline
export function forward(): void {
  transpose();
  transform(true);
  transpose();
  transform(false);
}

/** The same back: 16-bit values that are dequantised, to samples less 128. */
@inline
export function inverse(): void {
  inverseTransform(11);
  transpose();
  inverseTransform(18);
  transpose();
}
