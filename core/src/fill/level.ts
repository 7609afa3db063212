/** Half a patch, px; a patch has 7 x 7. */
export const HALF_PATCH = 3;

/** Marks of a level's pixels: the middle of a patch that may be copied from; the middle of one that has something empty in it. */
export const SOURCE = 1;
export const TARGET = 2;

/** One size of the picture that is being filled. All arrays lie row by row. */
export interface Level {
  readonly width: number;
  readonly height: number;
  /** RGBA, alpha 0: what is known, and what is thought of the rest. */
  readonly pixels: Uint8Array;
  /** 1 where something is to be filled. */
  readonly hole: Uint8Array;
  /** 1 where a pixel is known and may be copied. */
  readonly allowed: Uint8Array;
  readonly flags: Uint8Array;
  /** Middles of patches that have something empty in them, in rows. */
  readonly targets: Int32Array;
  /** For each target the middle of its match, times two, one more where that is mirrored. */
  readonly field: Int32Array;
  readonly distances: Int32Array;
  /** Red, green, blue: what is added to a match, one signed byte each. */
  readonly biases: Int32Array;
  /** How many patches may be copied from. */
  readonly sources: number;
}

/** Pixels, what is empty of them and what may be copied, of one size. */
export interface Ground {
  readonly width: number;
  readonly height: number;
  readonly pixels: Uint8Array;
  readonly hole: Uint8Array;
  readonly allowed: Uint8Array;
}

/** A level with its targets and sources marked. */
export function levelOf({ width, height, pixels, hole, allowed }: Ground): Level {
  const count = width * height;
  const flags = new Uint8Array(count);
  const empty = summed(hole, width, height);
  const copied = summed(allowed, width, height);
  const side = 2 * HALF_PATCH + 1;
  const targets: number[] = [];
  let sources = 0;
  for (let y = HALF_PATCH; y < height - HALF_PATCH; y += 1)
    for (let x = HALF_PATCH; x < width - HALF_PATCH; x += 1) {
      const at = y * width + x;
      if (inPatch(copied, width, x, y) === side * side) {
        flags[at] = SOURCE;
        sources += 1;
      } else if (inPatch(empty, width, x, y) > 0) {
        flags[at] = TARGET;
        targets.push(at);
      }
    }
  const [field, distances, biases] = [new Int32Array(count), new Int32Array(count), new Int32Array(count)];
  return { width, height, pixels, hole, allowed, flags, targets: Int32Array.from(targets), field, distances, biases, sources };
}

/** Sums of a mask over all rectangles from the corner, one row and column more than it. */
function summed(mask: Uint8Array, width: number, height: number): Int32Array {
  const sums = new Int32Array((width + 1) * (height + 1));
  for (let y = 0; y < height; y += 1) {
    let row = 0;
    for (let x = 0; x < width; x += 1) {
      row += mask[y * width + x] as number;
      sums[(y + 1) * (width + 1) + x + 1] = (sums[y * (width + 1) + x + 1] as number) + row;
    }
  }
  return sums;
}

function inPatch(sums: Int32Array, width: number, x: number, y: number): number {
  const [left, right] = [x - HALF_PATCH, x + HALF_PATCH + 1];
  const [top, bottom] = [(y - HALF_PATCH) * (width + 1), (y + HALF_PATCH + 1) * (width + 1)];
  return (sums[bottom + right] as number) - (sums[bottom + left] as number) - (sums[top + right] as number) + (sums[top + left] as number);
}

/** Half the size: the mean of what is known; empty where any of it is, copied from where all of it may be. */
export function halved({ width, height, pixels, hole, allowed }: Ground): Ground {
  const [w, h] = [Math.ceil(width / 2), Math.ceil(height / 2)];
  const out = { width: w, height: h, pixels: new Uint8Array(w * h * 4), hole: new Uint8Array(w * h), allowed: new Uint8Array(w * h) };
  for (let y = 0; y < h; y += 1)
    for (let x = 0; x < w; x += 1) {
      const at = y * w + x;
      let [r, g, b, known, empty, all] = [0, 0, 0, 0, 0, 1];
      for (let j = 2 * y; j < Math.min(height, 2 * y + 2); j += 1)
        for (let i = 2 * x; i < Math.min(width, 2 * x + 2); i += 1) {
          const from = j * width + i;
          if (allowed[from] === 0) all = 0;
          if (hole[from] === 1) {
            empty = 1;
            continue;
          }
          r += pixels[from * 4] as number;
          g += pixels[from * 4 + 1] as number;
          b += pixels[from * 4 + 2] as number;
          known += 1;
        }
      // a cell that is cut by the border of the picture is no whole one
      if (2 * x + 2 > width || 2 * y + 2 > height) all = 0;
      out.hole[at] = empty;
      out.allowed[at] = all;
      if (known === 0) continue;
      out.pixels[at * 4] = (r + (known >> 1)) / known;
      out.pixels[at * 4 + 1] = (g + (known >> 1)) / known;
      out.pixels[at * 4 + 2] = (b + (known >> 1)) / known;
    }
  return out;
}
