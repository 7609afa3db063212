import { focalPxOfCorrection } from '../correction/new-correction';
import type { Correction, Stance } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { leanAt, placesIn, surest, type Direction } from '../crop/lean-in-crop';
import { dice } from '../linear/dice';
import { IDENTITY3 } from '../linear/mat3';
import { inverseOf } from '../linear/symmetric';
import type { Attitude } from '../stance/attitude';
import type { Movement } from '../stance/determined-by';
import { bendOfLine, doubtsOf, sightOf, type FocalDoubt } from '../stance/doubt';
import { focalSdLog } from '../stance/focal-doubt';
import type { SeenCamera } from '../stance/line-residuals';
import { descend, normalOf, offOf, scatterSq, slopesOf, squaresOf, variancesOf, type Problem, type Unknown } from '../stance/problem';
import { deviationOf } from '../stance/sight';
import { KINDS, lineOf, longest, problemOf, type Taken } from './agreeing';
import { wrapped } from './level-directions';
import type { SuggestionKind } from './suggestion';
import type { Witness } from './witnesses';

/** A camera that is suggested, and the edges that say so. */
export interface Proposal {
  readonly kind: SuggestionKind;
  readonly may: Stance['may'];
  readonly camera: SeenCamera;
  readonly unknowns: readonly Movement[];
  /** The edges that agree and may become references, and those that speak against it. */
  readonly taken: readonly Taken[];
  readonly against: readonly Taken[];
  /** Every edge that says how the camera stood: level ones tell of its tilt too. */
  readonly telling: readonly Taken[];
  readonly told: readonly Movement[];
  /** Of which directions it speaks. */
  readonly about: readonly Direction[];
  /** Whether the evidence is beyond doubt, whatever the deviations say. */
  readonly firm: boolean;
}

/** How sure a proposal is. */
export interface HowSure {
  /** Greatest lean or slope that may be left anywhere in the crop, two deviations, degrees; in its middle, where it is only turned by that. */
  readonly withinDeg: number;
  /** Standard deviations, degrees; null where it does not touch a movement. */
  readonly sd: Readonly<Record<Movement, number | null>>;
  /** Whether every movement is as well known as a sure one's has to be. */
  readonly steady: boolean;
}

/** The longest of each kind are weighed: the others hardly change how sure it is. */
const MOST_WEIGHED = 40;
/** A movement of a sure one is known to this, one deviation, degrees; a swing to twice that. */
const STEADY_DEG = 0.12;
/**
 * Errors on made-up places were 0.6 of what is worked out here (seeds 240 to 383: halves of few edges scatter more than all do, and edges
 * are seen better than they are taken to be); a quarter of it is left in hand.
 */
const AS_FOUND = 0.75;
/** Its references say what all edges say, to this, degrees. */
const DEPARTS_DEG = 0.05;

/**
 * How sure a proposal is: the greater of what the solver says of all its edges, the focal length and the lens counted in, and of how eight
 * random halves of them scatter.
 *
 * @param solved the document with the proposal's stance
 * @param witnesses every straight edge of the picture: all of them speak of the lens
 */
export function howSure(
  { kind, may, camera, unknowns, telling, told, about }: Proposal,
  solved: Correction,
  warp: Warp,
  witnesses: readonly Witness[],
  diagonalPx: number,
): HowSure {
  const bend = likelyBend(witnesses, camera, diagonalPx, solved.lens.on && solved.lens.model.kind !== 'none');
  const weighed = KINDS.flatMap((kind) =>
    longest(
      telling.filter((edge) => edge.kind === kind),
      MOST_WEIGHED,
    ),
  );
  const lines = weighed.map((edge, i) => {
    const line = lineOf(edge, String(i));
    return { ...line, bow: bend * bendOfLine(line, diagonalPx / 2, [camera.centreX, camera.centreY]) };
  });
  const problem = problemOf(lines, diagonalPx);
  const residuals = offOf(problem, camera);
  const scatter = scatterSq(squaresOf(residuals), residuals.length, told.length);
  const focal = focalDoubt(problem, told, camera, scatter, focalSdLog(solved));
  const doubts = doubtsOf(problem, { unknowns: told, free: told, camera, scatter, focal, rival: null });
  const by = halves(weighed, camera, told, diagonalPx);
  const sight = sightOf(IDENTITY3, camera);
  const places = kind === 'turn-middle' ? placesIn(warp).slice(4, 5) : placesIn(warp);
  const ofHalves = about.flatMap((direction) =>
    places.map((place) => {
      const at = leanAt(warp, place, sight[direction], direction);
      const leans = by.map((half) => wrapped(leanAt(warp, place, sightOf(IDENTITY3, { ...camera, ...half })[direction], direction) - at));
      return scatterOf(leans, 0);
    }),
  );
  const deviation = (movement: Movement, among = doubts): number =>
    AS_FOUND *
    Math.max(
      deviationOf(among, (s) => s.attitude[movement], camera[movement]),
      scatterOf(
        by.map((half) => half[movement]),
        camera[movement],
      ),
    );
  const sd = (movement: Movement): number | null => (unknowns.includes(movement) ? deviation(movement) : null);
  // whatever the focal length, which was told: that changes the tilt, and not what comes true
  const known = doubts.filter((doubt) => doubt.of !== 'focal');
  const steady = unknowns.every((movement) => deviation(movement, known) <= (movement === 'swing' ? 2 : 1) * STEADY_DEG);
  // its references say nearly what all edges say: what they say otherwise is off by so much; a swing that they do not touch stays
  const { roll, tilt, swing } = solved.stance;
  const asShown = { ...camera, focalPx: focalPxOfCorrection(solved), roll, tilt, swing: unknowns.includes('swing') ? swing : camera.swing };
  const shown = sightOf(IDENTITY3, asShown);
  const apart = about.flatMap((direction) =>
    places.map((place) =>
      Math.abs(wrapped(leanAt(warp, place, shown[direction], direction) - leanAt(warp, place, sight[direction], direction))),
    ),
  );
  const departs = may === 'turn-only' ? 0 : Math.max(...apart);
  return {
    withinDeg: Math.hypot(departs, 2 * AS_FOUND * Math.max(surest(warp, { sight, doubts }, about, places).deg, ...ofHalves)),
    sd: { roll: sd('roll'), tilt: sd('tilt'), swing: sd('swing') },
    steady:
      may === 'turn-only' ||
      (steady &&
        !hangsOnOnePlace(weighed, problem, told, camera) &&
        unknowns.every((movement) => Math.abs(solved.stance[movement] - camera[movement]) <= DEPARTS_DEG)),
  };
}

/** How well the bow of an edge is seen, in terms of how well its ends are (measured on made-up places). */
const BOW_DEVIATIONS = 1.5;
const OWN_BOW_DEVIATIONS = 4;
/** Most that a lens is taken to bend, and what one usually does, as coefficients of the radius cubed in half diagonals. */
const MOST_BEND = 0.15;
const USUAL_BEND = 0.02;
/** What a lens that was taken out leaves (a matter of judgement). */
const LEFT_BEND = 0.003;

/** By how much the lens may still bend: what the bows of all straight edges say together, beside what lenses usually do, and how unsure that is. */
function likelyBend(witnesses: readonly Witness[], { centreX, centreY }: SeenCamera, diagonalPx: number, takenOut: boolean): number {
  let [product, square] = [0, 1 / (takenOut ? LEFT_BEND : USUAL_BEND) ** 2];
  for (const { p, q, length, bowPx, sdPx } of witnesses) {
    const unit = bendOfLine({ a: p, b: q, length }, diagonalPx / 2, [centreX, centreY]);
    // what bows by more than a lens could make it is no straight thing
    if (Math.abs(bowPx) > MOST_BEND * Math.abs(unit) + OWN_BOW_DEVIATIONS * sdPx) continue;
    const w = 1 / (BOW_DEVIATIONS * sdPx) ** 2;
    product += w * bowPx * unit;
    square += w * unit * unit;
  }
  return Math.hypot(product / square, 1 / Math.sqrt(square));
}

/** What is not known of the focal length: as it was told, and as far as the edges say it themselves. */
function focalDoubt(problem: Problem, unknowns: readonly Movement[], camera: SeenCamera, scatter: number, told: number): FocalDoubt {
  if (told === 0 || !unknowns.includes('swing')) return { offset: 0, sd: told };
  const all = [...unknowns, 'logFocal'] as const;
  const solved = descend(problem, all, camera, { rounds: 2, from: 'start' }).camera;
  const variance = (variancesOf(problem, all, solved)?.at(-1) ?? Infinity) * scatter;
  const [a, b] = [1 / (told * told), 1 / variance];
  return { offset: (b * Math.log(solved.focalPx / camera.focalPx)) / (a + b), sd: 1 / Math.sqrt(a + b) };
}

/** What stands within this of each other is one place, as a share of the diagonal: a post and its shadow, a wall and the pipe on it. */
const ONE_PLACE = 0.06;
/** Without it the answer is another by so many deviations of what is left, and by more than a sure one may be off. */
const OTHER_DEVIATIONS = 3;

/**
 * Whether one place decides against all others how the camera stood, as two posts that lean alike do beside a small house: without its plumb
 * edges the rest gives another answer. One step of Newton's from the answer of all.
 */
function hangsOnOnePlace(taken: readonly Taken[], problem: Problem, unknowns: readonly Movement[], camera: SeenCamera): boolean {
  const n = unknowns.length;
  const columns = slopesOf(problem, unknowns, camera);
  const off = offOf(problem, camera);
  const middle = ({ witness: { p, q } }: Taken): number => (p[0] + q[0]) / 2;
  return taken.some((one) => {
    if (one.kind !== 'plumb') return false;
    const left = [...taken.keys()].filter((i) => {
      const other = taken[i] as Taken;
      return other.kind !== 'plumb' || Math.abs(middle(other) - middle(one)) > ONE_PLACE * problem.diagonalPx;
    });
    if (left.length <= n) return false;
    const of = (values: readonly number[]): number[] => left.map((i) => values[i] as number);
    const inverse = inverseOf(normalOf(columns.map(of)), n);
    if (!inverse) return false;
    const pulls = columns.map((column) => left.reduce((sum, i) => sum + (column[i] as number) * (off[i] as number), 0));
    const step = unknowns.map((_, k) => pulls.reduce((sum, pull, l) => sum - (inverse[k * n + l] as number) * pull, 0));
    const after = left.map((i) => (off[i] as number) + step.reduce((sum, by, k) => sum + by * (columns[k]?.[i] as number), 0));
    const scatter = scatterSq(squaresOf(after), left.length, n);
    return unknowns.some((movement, k) => {
      const far = Math.abs(step[k] as number);
      const known = Math.sqrt((inverse[k * n + k] as number) * scatter);
      return far > OTHER_DEVIATIONS * known && far > (movement === 'swing' ? 2 : 1) * STEADY_DEG;
    });
  });
}

const HALVES = 8;

/** The same order for the same picture. Source: Fisher, Yates 1938. */
function shuffled(count: number, seed: number): number[] {
  const { uniform } = dice(seed);
  const order = Array.from({ length: count }, (_, i) => i);
  for (let i = count - 1; i > 0; i -= 1) {
    const k = Math.floor(uniform() * (i + 1));
    [order[i], order[k]] = [order[k] as number, order[i] as number];
  }
  return order;
}

/**
 * How eight random halves of the edges answer, each by itself: a half departs from all as all depart from the truth, where edges are
 * independent. Every kind is halved by itself.
 *
 * @returns the attitudes of the halves
 * Source: half sampling, McCarthy 1969, from memory.
 */
function halves(taken: readonly Taken[], camera: SeenCamera, unknowns: readonly Unknown[], diagonalPx: number): readonly Attitude[] {
  const kinds = KINDS.map((kind) => taken.filter((edge) => edge.kind === kind)).filter((of) => of.length > 0);
  return Array.from({ length: HALVES }, (_, round): Attitude => {
    const half = kinds.flatMap((of, k) => {
      const order = shuffled(of.length, 8 * round + k + 1);
      return order.slice(0, Math.max(2, Math.ceil(of.length / 2))).map((i) => of[i] as Taken);
    });
    const lines = half.map((edge, i) => lineOf(edge, String(i)));
    return descend(problemOf(lines, diagonalPx), unknowns, camera, { rounds: 1, from: 'start', searching: true }).camera;
  });
}

/** Root mean square of how far figures depart from one. */
const scatterOf = (values: readonly number[], at: number): number =>
  values.length === 0 ? 0 : Math.sqrt(values.reduce((sum, v) => sum + (v - at) ** 2, 0) / values.length);
