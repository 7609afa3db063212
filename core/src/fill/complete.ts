import { halved, HALF_PATCH, levelOf, SOURCE, type Ground, type Level } from './level';
import type { Search } from './search';
import { depthOf, voted } from './vote';

/** A level that has been filled, and what its votes say beyond what its own matches copy. */
export interface Completed {
  readonly level: Level;
  /** RGB of each pixel: what is added to what is copied, smooth; nothing where nothing was empty. */
  readonly correction: Float32Array;
}

/** Levels go on until the shorter side is no longer than this, px, or there is little to copy. */
const COARSEST_PX = 36;
const FEWEST_SOURCES = 300;
/** Rounds of searching and voting: at the finest level, two more for each coarser one, at most so many. */
const FEWEST_VOTES = 1;
const MOST_VOTES = 8;
const ROUNDS = 3;
/** The same where nothing is known yet: what is found there decides; more where there is little to search. */
const FIRST_ROUNDS = 40;
const FIRST_WORK = 6000;
/** Where the matches of the level before are known, places at random are tried this near, px. */
const NEAR_PX = 16;
/** Mirrored patches are looked for on levels no longer than this. */
const MIRRORS_PX = 400;

/**
 * Fills what is empty from coarse to fine: at each level patches are matched and voted in turns.
 * Source: Wexler, Shechtman, Irani 2007; Barnes and others 2009 (see vote.ts and search.ts).
 *
 * @param ground the finest level
 * @param searchOn makes the search of a level
 * @param onShare called with the share that is done, 0..1
 * @returns null where there is nothing to copy
 */
export function complete(
  ground: Ground,
  seed: number,
  searchOn: (level: Level, seed: number) => Search,
  onShare: (share: number) => void = () => undefined,
): Completed | null {
  const grounds = [ground];
  for (;;) {
    const last = grounds.at(-1) as Ground;
    if (Math.min(last.width, last.height) <= COARSEST_PX) break;
    const next = halved(last);
    if (levelOf(next).sources < FEWEST_SOURCES) break;
    grounds.push(next);
  }
  const work = grounds.map((g, k) => g.width * g.height * votesAt(k));
  const whole = work.reduce((sum, w) => sum + w, 0);
  let done = 0;
  let before: Level | null = null;
  for (let k = grounds.length - 1; k >= 0; k -= 1) {
    const level = levelOf(grounds[k] as Ground);
    if (level.sources === 0) return null;
    const holes = indices(level.hole);
    const depth = depthOf(level);
    if (before) refine(before, level, seed);
    else begin(level, holes, seed);
    const guide = before ? null : coloursAt(level, holes);
    const votes = votesAt(k);
    const radius = before ? NEAR_PX : Math.max(level.width, level.height);
    const rounds = before ? ROUNDS : Math.max(ROUNDS, Math.min(FIRST_ROUNDS, Math.round(FIRST_WORK / level.targets.length)));
    const mirrors = Math.max(level.width, level.height) <= MIRRORS_PX;
    if (before) put(level, holes, voted(level, holes, depth));
    const search = searchOn(level, seed + 7919 * (k + 1));
    for (let v = 0; v < votes; v += 1) {
      search.measure();
      for (let r = 0; r < rounds; r += 1) search.round(r % 2 === 0, radius, mirrors);
      search.measure();
      search.read();
      put(level, holes, anchored(voted(level, holes, depth), guide, before ? 0 : ANCHOR));
      search.write();
      done += (work[k] as number) / votes;
      onShare(Math.min(1, done / whole));
    }
    before = level;
  }
  const level = before as Level;
  return { level, correction: beyondCopies(level) };
}

/** So much of what is thought at first, from the nearest known pixels, stays at the coarsest level: colours do not drift from their place. */
const ANCHOR = 0.5;

/** RGB of the empty pixels as they are thought of now. */
function coloursAt({ pixels }: Level, holes: Int32Array): Float32Array {
  const colours = new Float32Array(holes.length * 3);
  for (let n = 0; n < holes.length; n += 1)
    for (let c = 0; c < 3; c += 1) colours[n * 3 + c] = pixels[(holes[n] as number) * 4 + c] as number;
  return colours;
}

/** Votes drawn towards a guide. */
function anchored(votes: Float32Array, guide: Float32Array | null, share: number): Float32Array {
  if (guide && share > 0)
    for (let k = 0; k < votes.length; k += 1) votes[k] = (votes[k] as number) * (1 - share) + (guide[k] as number) * share;
  return votes;
}

const votesAt = (k: number): number => Math.min(MOST_VOTES, FEWEST_VOTES + k * 2);

function indices(mask: Uint8Array): Int32Array {
  const at: number[] = [];
  for (let k = 0; k < mask.length; k += 1) if (mask[k] === 1) at.push(k);
  return Int32Array.from(at);
}

function put({ pixels }: Level, holes: Int32Array, values: Float32Array): void {
  for (let n = 0; n < holes.length; n += 1)
    for (let c = 0; c < 3; c += 1)
      pixels[(holes[n] as number) * 4 + c] = Math.min(255, Math.max(0, Math.round(values[n * 3 + c] as number)));
}

/** The coarsest level: matches at random, and what is empty as the nearest known pixels are. */
function begin(level: Level, holes: Int32Array, seed: number): void {
  const { width, height, pixels, hole, field, flags, targets } = level;
  const sources: number[] = [];
  for (let k = 0; k < flags.length; k += 1) if (flags[k] === SOURCE) sources.push(k);
  let state = seed >>> 0 || 1;
  for (const t of targets) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    field[t] = (sources[Math.floor((state / 2 ** 32) * sources.length)] as number) << 1;
  }
  const unknown = hole.slice();
  for (let left = [...holes]; left.length > 0;) {
    const next: number[] = [];
    const made: number[] = [];
    for (const p of left) {
      const [x, y] = [p % width, Math.floor(p / width)];
      let [r, g, b, known] = [0, 0, 0, 0];
      for (let j = Math.max(0, y - 1); j <= Math.min(height - 1, y + 1); j += 1)
        for (let i = Math.max(0, x - 1); i <= Math.min(width - 1, x + 1); i += 1) {
          const q = j * width + i;
          if (unknown[q] !== 0) continue;
          r += pixels[q * 4] as number;
          g += pixels[q * 4 + 1] as number;
          b += pixels[q * 4 + 2] as number;
          known += 1;
        }
      if (known === 0) next.push(p);
      else {
        made.push(p);
        pixels[p * 4] = r / known;
        pixels[p * 4 + 1] = g / known;
        pixels[p * 4 + 2] = b / known;
      }
    }
    if (made.length === 0) break;
    for (const p of made) unknown[p] = 0;
    left = next;
  }
}

/** Matches of a level from those of the one half its size; where that is nothing to copy, a place at random. */
function refine(coarse: Level, level: Level, seed: number): void {
  const { width, height, field, flags, targets } = level;
  const inner = (value: number, length: number): number => Math.min(length - 1 - HALF_PATCH, Math.max(HALF_PATCH, value));
  const sources: number[] = [];
  let state = seed;
  for (const t of targets) {
    const [x, y] = [t % width, Math.floor(t / width)];
    const [cx, cy] = [inner(x >> 1, coarse.width), inner(y >> 1, coarse.height)];
    const match = coarse.field[cy * coarse.width + cx] as number;
    // a target may have been none at the coarser level
    const known = match > 1;
    const mirrored = match & 1;
    const [mx, my] = [(match >> 1) % coarse.width, Math.floor((match >> 1) / coarse.width)];
    const [dx, dy] = [x - 2 * cx, y - 2 * cy];
    const [u, v] = [inner(2 * mx + (mirrored ? 1 - dx : dx), width), inner(2 * my + dy, height)];
    const place = v * width + u;
    if (known && (flags[place] as number) & SOURCE) {
      field[t] = (place << 1) | mirrored;
      continue;
    }
    if (sources.length === 0) for (let k = 0; k < flags.length; k += 1) if (flags[k] === SOURCE) sources.push(k);
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    field[t] = (sources[Math.floor((state / 2 ** 32) * sources.length)] as number) << 1;
  }
}

/** Where the pixel at x, y of a filled level is copied from. */
export function copiedFrom(
  { width, height, field }: Level,
  x: number,
  y: number,
): { readonly x: number; readonly y: number; readonly mirrored: boolean } {
  const cx = Math.min(width - 1 - HALF_PATCH, Math.max(HALF_PATCH, x));
  const cy = Math.min(height - 1 - HALF_PATCH, Math.max(HALF_PATCH, y));
  const match = field[cy * width + cx] as number;
  const mirrored = (match & 1) === 1;
  const [mx, my] = [(match >> 1) % width, Math.floor((match >> 1) / width)];
  return { x: mx + (mirrored ? cx - x : x - cx), y: my + y - cy, mirrored };
}

/** Half of the square over which the difference between votes and copies is smoothed, px. */
const SMOOTH = 2;

/** What the votes of a level say beyond what is copied, smoothed over what was empty. */
function beyondCopies(level: Level): Float32Array {
  const { width, height, pixels, hole } = level;
  const difference = new Float32Array(width * height * 3);
  const at = indices(hole);
  for (const p of at) {
    const from = copiedFrom(level, p % width, Math.floor(p / width));
    const q = (from.y * width + from.x) * 4;
    for (let c = 0; c < 3; c += 1) difference[p * 3 + c] = (pixels[p * 4 + c] as number) - (pixels[q + c] as number);
  }
  const smooth = new Float32Array(width * height * 3);
  for (const p of at) {
    const [x, y] = [p % width, Math.floor(p / width)];
    let [r, g, b, count] = [0, 0, 0, 0];
    for (let j = Math.max(0, y - SMOOTH); j <= Math.min(height - 1, y + SMOOTH); j += 1)
      for (let i = Math.max(0, x - SMOOTH); i <= Math.min(width - 1, x + SMOOTH); i += 1) {
        const q = j * width + i;
        if (hole[q] !== 1) continue;
        r += difference[q * 3] as number;
        g += difference[q * 3 + 1] as number;
        b += difference[q * 3 + 2] as number;
        count += 1;
      }
    smooth[p * 3] = r / count;
    smooth[p * 3 + 1] = g / count;
    smooth[p * 3 + 2] = b / count;
  }
  return smooth;
}
