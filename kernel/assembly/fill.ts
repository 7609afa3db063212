/*
 * The search of filling, in AssemblyScript with SIMD: for every patch that has something empty in it the patch of the picture that is most
 * like it, as core/src/fill/search.ts does it in plain steps; both count in whole numbers and give the same to the bit. Whoever calls it
 * lays out the memory; nothing is allocated here.
 */

/** Half a patch, px; a patch has 7 x 7. */
const HALF: i32 = 3;
const AREA: i32 = 49;
/** Farthest that a patch may be made brighter or darker, levels. */
const MOST_BIAS: i32 = 24;

const SOURCE: u8 = 1;
const TARGET: u8 = 2;

let image: usize = 0;
let field: usize = 0;
let distances: usize = 0;
let biases: usize = 0;
let flags: usize = 0;
let width: i32 = 0;
let height: i32 = 0;
/** What it costs to copy from a px higher or lower, and from one to the side, sixteenths. */
let climb: i32 = 0;
let stray: i32 = 0;

let red: i32 = 0;
let green: i32 = 0;
let blue: i32 = 0;

/** @param pixels RGBA, alpha 0; @param matches source * 2 + mirrored; all of one level, row by row */
export function lay(pixels: usize, matches: usize, far: usize, shifts: usize, marks: usize, w: i32, h: i32, up: i32, aside: i32): void {
  image = pixels;
  field = matches;
  distances = far;
  biases = shifts;
  flags = marks;
  width = w;
  height = h;
  climb = up;
  stray = aside;
}

function biasOf(sum: i32): i32 {
  const b = sum >= 0 ? (sum + (AREA >> 1)) / AREA : -((-sum + (AREA >> 1)) / AREA);
  return b > MOST_BIAS ? MOST_BIAS : b < -MOST_BIAS ? -MOST_BIAS : b;
}

/** How unlike two patches are, the one from the picture made as bright as the other within bounds; leaves by how much. */
function unlike(target: i32, match: i32): i32 {
  const mirrored = match & 1;
  const source = match >> 1;
  const row = width << 2;
  let p = image + ((target - HALF * width - HALF) << 2);
  let q = image + ((source - HALF * width - HALF) << 2);
  let squares = i32x4.splat(0);
  let sums = i16x8.splat(0);
  // the fourth pixel is in both halves: once is enough
  const rest = i32x4(0, -1, -1, -1);
  for (let j = 0; j < 7; j++, p += row, q += row) {
    const a = v128.load(p);
    const b = v128.and(v128.load(p + 12), rest);
    let c: v128;
    let d: v128;
    if (mirrored) {
      c = v128.shuffle<i32>(v128.load(q + 12), i32x4.splat(0), 3, 2, 1, 0);
      d = v128.and(v128.shuffle<i32>(v128.load(q), i32x4.splat(0), 3, 2, 1, 0), rest);
    } else {
      c = v128.load(q);
      d = v128.and(v128.load(q + 12), rest);
    }
    const d0 = i16x8.sub(i16x8.extend_low_i8x16_u(a), i16x8.extend_low_i8x16_u(c));
    const d1 = i16x8.sub(i16x8.extend_high_i8x16_u(a), i16x8.extend_high_i8x16_u(c));
    const d2 = i16x8.sub(i16x8.extend_low_i8x16_u(b), i16x8.extend_low_i8x16_u(d));
    const d3 = i16x8.sub(i16x8.extend_high_i8x16_u(b), i16x8.extend_high_i8x16_u(d));
    sums = i16x8.add(sums, i16x8.add(i16x8.add(d0, d1), i16x8.add(d2, d3)));
    squares = i32x4.add(squares, i32x4.add(i32x4.dot_i16x8_s(d0, d0), i32x4.dot_i16x8_s(d1, d1)));
    squares = i32x4.add(squares, i32x4.add(i32x4.dot_i16x8_s(d2, d2), i32x4.dot_i16x8_s(d3, d3)));
  }
  const all =
    i32x4.extract_lane(squares, 0) + i32x4.extract_lane(squares, 1) + i32x4.extract_lane(squares, 2) + i32x4.extract_lane(squares, 3);
  const r = <i32>i16x8.extract_lane_s(sums, 0) + <i32>i16x8.extract_lane_s(sums, 4);
  const g = <i32>i16x8.extract_lane_s(sums, 1) + <i32>i16x8.extract_lane_s(sums, 5);
  const b2 = <i32>i16x8.extract_lane_s(sums, 2) + <i32>i16x8.extract_lane_s(sums, 6);
  red = biasOf(r);
  green = biasOf(g);
  blue = biasOf(b2);
  return all - gain(red, r) - gain(green, g) - gain(blue, b2) + way(target, source);
}

/** What it costs to copy from so far away. */
function way(target: i32, source: i32): i32 {
  const y0 = target / width;
  const y1 = source / width;
  const up = y0 > y1 ? y0 - y1 : y1 - y0;
  const x = target - y0 * width - (source - y1 * width);
  return (up * climb + (x < 0 ? -x : x) * stray) >> 4;
}

/** What a bias takes off the squares, less what it costs. */
function gain(bias: i32, sum: i32): i32 {
  return 2 * bias * sum - AREA * bias * bias - ((AREA * bias * bias) >> 2);
}

/** How unlike every target and its match are now, and the bias between them. */
export function measure(targets: usize, count: i32): void {
  for (let n = 0; n < count; n++) {
    const t = load<i32>(targets + (n << 2));
    store<i32>(distances + (t << 2), unlike(t, load<i32>(field + (t << 2))));
    store<i32>(biases + (t << 2), (red & 255) | ((green & 255) << 8) | ((blue & 255) << 16));
  }
}

let state: u32 = 1;
function dice(): u32 {
  state ^= state << 13;
  state ^= state >> 17;
  state ^= state << 5;
  return state;
}

/**
 * One round: what lies beside is tried, then places at random ever nearer to the best.
 * @param forward 1 from the first target on, 0 from the last back; @param radius px of the first random place
 * @param mirrors whether mirrored patches are tried
 * @returns the state of the dice
 */
export function search(targets: usize, count: i32, forward: i32, seed: u32, radius: i32, mirrors: i32): u32 {
  state = seed;
  const step = forward ? -1 : 1;
  for (let k = 0; k < count; k++) {
    const t = load<i32>(targets + ((forward ? k : count - 1 - k) << 2));
    let best = load<i32>(field + (t << 2));
    let least = load<i32>(distances + (t << 2));
    for (let down = 0; down < 2; down++) {
      const beside = t + (down ? step * width : step);
      if (!(load<u8>(flags + beside) & TARGET)) continue;
      const match = load<i32>(field + (beside << 2));
      const source = (match >> 1) - (down ? step * width : match & 1 ? -step : step);
      const tried = (source << 1) | (match & 1);
      if (tried == best || !(load<u8>(flags + source) & SOURCE)) continue;
      const far = unlike(t, tried);
      if (far < least) {
        least = far;
        best = tried;
      }
    }
    for (let r = radius; r >= 1; r >>= 1) {
      const source = best >> 1;
      const y = source / width;
      const x = source - y * width;
      const span = <u32>(2 * r + 1);
      const u = x - r + <i32>((dice() >> 3) % span);
      const v = y - r + <i32>((dice() >> 3) % span);
      const turned = mirrors && ((dice() >> 8) & 3) == 0 ? 1 : 0;
      if (u < HALF || v < HALF || u >= width - HALF || v >= height - HALF) continue;
      const place = v * width + u;
      if (!(load<u8>(flags + place) & SOURCE)) continue;
      const tried = (place << 1) | ((best & 1) ^ turned);
      if (tried == best) continue;
      const far = unlike(t, tried);
      if (far < least) {
        least = far;
        best = tried;
      }
    }
    store<i32>(field + (t << 2), best);
    store<i32>(distances + (t << 2), least);
  }
  return state;
}
