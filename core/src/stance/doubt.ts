import { apply3, multiply3, type Mat3 } from '../linear/mat3';
import { solveLinear } from '../linear/levenberg-marquardt';
import { inverseOf, lowerRoot } from '../linear/symmetric';
import { radians, type Point } from '../picture/point';
import { deviationOf, type Doubt, type DoubtOf, type Sight } from './sight';
import type { Movement } from './determined-by';
import type { SeenCamera } from './line-residuals';
import {
  atEnd,
  normalOf,
  offOf,
  settled,
  slopesOf,
  squaresOf,
  USUAL_SWING_DEG,
  USUAL_TILT_DEG,
  type Problem,
  type SolvedFixed,
  type Unknown,
} from './problem';
import type { TrueLine } from './true-lines';
import { worldToCamera } from './world-direction';

/** A focal length less sure than this changes by how much pointing matters. */
const UNSURE_FOCAL = 0.1;
/** So few lines answer anything but straight when they are moved. */
const FEW_LINES = 4;
const MOST_CROOKED = 1.4;
const MOST_OF_FEW_DEG = 4;
/** Nor when their pointing matters so much more at another focal length that is as likely: as a factor of the variance. */
const MOST_GROWN = 4;
/** Most that an unknown lens may bend: coefficient of the radius cubed, in half diagonals. */
const MOST_BEND = 0.15;

/** Where a camera sees what is plumb and level. */
export function sightOf(facing: Mat3, camera: SeenCamera): Sight {
  const { roll, tilt, swing, focalPx: f, centreX, centreY } = camera;
  const seen = multiply3([f, 0, centreX, 0, f, centreY, 0, 0, 1], worldToCamera(facing, camera));
  return { attitude: { roll, tilt, swing }, plumb: apply3(seen, [0, 1, 0]), level: apply3(seen, [1, 0, 0]) };
}

/** What is known of the focal length beside the lines, and by them: offset and deviation of its logarithm. */
export interface FocalDoubt {
  readonly offset: number;
  readonly sd: number;
}

/** A solved camera as its doubts are asked for. */
export interface Answered {
  /** What was solved, and the movements among it, which are settled anew for everything else. */
  readonly unknowns: readonly Unknown[];
  readonly free: readonly Movement[];
  readonly camera: SeenCamera;
  /** By what the variances of the lines are too small. */
  readonly scatter: number;
  readonly focal: FocalDoubt;
  readonly rival: SolvedFixed['rival'];
}

/**
 * Everything that is not known of a solved camera, each as the cameras one deviation off it to either side. The errors of a
 * least-squares answer are what its lines' pointing does to it, and what everything does to it that was taken as known.
 *
 * @returns none where the lines do not determine what was solved
 */
export function doubtsOf(problem: Problem, answered: Answered): readonly Doubt[] {
  const { unknowns, free, camera, focal, rival } = answered;
  const sight = (at: SeenCamera): Sight => sightOf(problem.facing, at);
  // the focal length is a doubt of its own, so that how far it bends the answer is seen in full
  const solved = unknowns.filter((u) => u !== 'logFocal');
  const moved = (by: readonly number[]): SeenCamera =>
    solved.reduce<SeenCamera>((at, unknown, i) => ({ ...at, [unknown]: at[unknown] + (by[i] as number) }), camera);
  const bothWays = (of: DoubtOf, by: readonly number[]): Doubt => ({ of, plus: sight(moved(by)), minus: sight(moved(by.map((v) => -v))) });

  const few = problem.lines.length <= FEW_LINES && solved.length === free.length;
  const withFocal = (deviations: number): SeenCamera =>
    focal.sd === 0
      ? camera
      : settled(problem, free, { ...camera, focalPx: camera.focalPx * Math.exp(focal.offset + deviations * focal.sd) }).camera;
  const ends = [withFocal(1), withFocal(-1)] as const;
  const roots = [camera, ...(focal.sd > UNSURE_FOCAL ? ends : [])].map((at) => pointingAt(problem, solved, at, answered.scatter));
  if (atEnd(problem, camera) || !roots[0]) return [];
  // where it stands with another length the same pointing may matter more
  const size = (of: number[][] | null): number => (of ? squaresOf(of.flat()) : 0);
  const widest = roots.reduce((p, q) => (size(q) > size(p) ? q : p)) as number[][];
  // the angles as wide as that; where things run in the picture, as the length in use has it
  const doubts: Doubt[] = roots[0].map((root, i) => {
    const [seen, turned] = [bothWays('pointing', root), bothWays('pointing', widest[i] as number[])];
    const side = (of: 'plus' | 'minus'): Sight => ({ ...seen[of], attitude: turned[of].attitude });
    return { of: 'pointing', plus: side('plus'), minus: side('minus') };
  });
  // an eye line is no direction that few of them turn
  if (few && problem.lines.every((line) => line.kind !== 'eye')) {
    const bent = pointingOfFew(problem, free, camera, answered.scatter);
    const straight = roots[0].map((root) => bothWays('pointing', root));
    if (free.some((movement) => differ(movement, straight, bent, sight(camera)))) return [];
    if (size(widest) > MOST_GROWN * size(roots[0])) return [];
    // with no line to spare nothing tells whether an unsure focal length made tilt and swing change places
    const plumbs = problem.lines.filter((line) => line.kind === 'plumb').length;
    if (free.length === 3 && problem.lines.length === 3 && focal.sd > UNSURE_FOCAL && plumbs < 2) return [];
  }
  if (focal.sd > 0) {
    const [plus, minus] = ends.map((at, i) => {
      const seen = sight(at);
      return few ? { ...seen, attitude: sight(halfway(camera, withFocal(i === 0 ? 2 : -2))).attitude } : seen;
    }) as [Sight, Sight];
    doubts.push({ of: 'focal', plus, minus });
  }
  const bend = bendOf(problem, solved, camera);
  if (bend) doubts.push(bothWays('bend', bend));
  if (rival) {
    const share = Math.sqrt(rival.share);
    const by = solved.map((u) => (rival.camera[u] - camera[u]) * share);
    doubts.push(bothWays('rival', by));
  }
  if (problem.lines.length > 1) doubts.push(...untold(problem, free, camera, doubts));
  return doubts;
}

/** Whether few lines answer a movement so crookedly that no deviation says how sure it is. */
function differ(movement: Movement, straight: readonly Doubt[], bent: readonly Doubt[], { attitude }: Sight): boolean {
  const [p, q] = [straight, bent].map((doubts) => deviationOf(doubts, (s) => s.attitude[movement], attitude[movement])) as [number, number];
  return Math.max(p, q) > Math.min(MOST_CROOKED * Math.min(p, q), MOST_OF_FEW_DEG);
}

/** The same for few lines, which may answer anything but straight: each moved by two deviations, everything settled anew, and half of that. */
function pointingOfFew(problem: Problem, free: readonly Movement[], camera: SeenCamera, scatter: number): readonly Doubt[] {
  const by = (line: TrueLine, deviations: number): Sight => {
    const [dx, dy] = [line.b[0] - line.a[0], line.b[1] - line.a[1]];
    // both ends move against each other: that turns the line by what its residual says
    const off = (deviations * line.sd * Math.sqrt(scatter)) / Math.SQRT2 / Math.hypot(dx, dy);
    const [a, b]: [Point, Point] = [
      [line.a[0] - dy * off, line.a[1] + dx * off],
      [line.b[0] + dy * off, line.b[1] - dx * off],
    ];
    const moved = { ...problem, lines: problem.lines.map((l) => (l === line ? { ...l, a, b } : l)) };
    return sightOf(problem.facing, halfway(camera, settled(moved, free, camera).camera));
  };
  return problem.lines.map((line) => ({ of: 'pointing', plus: by(line, 2), minus: by(line, -2) }));
}

const halfway = (p: SeenCamera, q: SeenCamera): SeenCamera => ({
  ...q,
  roll: (p.roll + q.roll) / 2,
  tilt: (p.tilt + q.tilt) / 2,
  swing: (p.swing + q.swing) / 2,
});

/** What nothing tells of tilt and swing, and was taken for none. */
function untold(problem: Problem, free: readonly Movement[], camera: SeenCamera, doubts: readonly Doubt[]): readonly Doubt[] {
  const sight = (at: SeenCamera): Sight => sightOf(problem.facing, at);
  const found: Doubt[] = [];
  for (const [movement, usual] of [
    ['tilt', USUAL_TILT_DEG],
    ['swing', USUAL_SWING_DEG],
  ] as const) {
    if (free.includes(movement)) continue;
    // what it does grows faster than it does itself: two deviations, and half of that
    const moved = (by: number): SeenCamera => settled(problem, free, { ...camera, [movement]: camera[movement] + by }).camera;
    const at = (by: number): Sight => ({ ...sight(moved(by)), attitude: sight(halfway(camera, moved(2 * by))).attitude });
    found.push({ of: movement, plus: at(usual), minus: at(-usual) });
  }
  if (!free.includes('tilt') && free.includes('swing')) {
    // a tilt rolls what is seen at an angle: by how much, the swing decides, which is not known either
    const { attitude, ...seen } = sight(camera);
    const roll = Math.sin(radians(USUAL_TILT_DEG)) * deviationOf(doubts, (s) => s.attitude.swing, attitude.swing);
    const rolled = (by: number): Sight => ({ ...seen, attitude: { ...attitude, roll: attitude.roll + by } });
    found.push({ of: 'tilt', plus: rolled(roll), minus: rolled(-roll) });
  }
  return found;
}

/** What the pointing does to the unknowns: independent ways of one deviation each. Null where the lines do not determine them. */
function pointingAt(problem: Problem, solved: readonly Unknown[], camera: SeenCamera, scatter: number): number[][] | null {
  const inverse = inverseOf(normalOf(slopesOf(problem, solved, camera)), solved.length);
  return (
    inverse &&
    lowerRoot(
      inverse.map((v) => v * scatter),
      solved.length,
    )
  );
}

/** What a lens that nobody took out does to the unknowns: one that bends the lines by as much as their edges bow. Null where none does. */
export function bendOf(problem: Problem, unknowns: readonly Unknown[], camera: SeenCamera): readonly number[] | null {
  const bent = bentLines(problem, camera);
  if (!bent) return null;
  const columns = slopesOf(problem, unknowns, camera);
  const before = offOf(problem, camera);
  const right = offOf(bent, camera).map((r, i) => r - (before[i] as number));
  return solveLinear(
    normalOf(columns),
    columns.map((column) => -column.reduce((sum, value, i) => sum + value * (right[i] as number), 0)),
  );
}

/** By how much of a line's middle, px to the right of its way, a lens bends it for a coefficient of one. */
export function bendOfLine({ a, b, length }: Pick<TrueLine, 'a' | 'b' | 'length'>, half: number, centre: Point): number {
  const [p, q] = [bentPoint(a, 1, half, centre), bentPoint(b, 1, half, centre)];
  const m = bentPoint([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2], 1, half, centre);
  return ((m[1] - (p[1] + q[1]) / 2) * (b[0] - a[0]) - (m[0] - (p[0] + q[0]) / 2) * (b[1] - a[1])) / length;
}

/** A point moved outwards by a coefficient of the radius cubed, in half diagonals. */
function bentPoint([x, y]: Point, k: number, half: number, [cx, cy]: Point): Point {
  const [dx, dy] = [x - cx, y - cy];
  const s = 1 + (k * (dx * dx + dy * dy)) / (half * half);
  return [cx + dx * s, cy + dy * s];
}

/**
 * The lines as they would lie had the lens bent them by as much as their edges bow: what a lens does to one it does to all, so it does not
 * average out. Null where nothing bows.
 */
function bentLines(problem: Problem, { centreX, centreY }: SeenCamera): Problem | null {
  const half = problem.diagonalPx / 2;
  const centre: Point = [centreX, centreY];
  const bows = squaresOf(problem.lines.map((line) => line.bow));
  if (bows === 0) return null;
  const units = squaresOf(problem.lines.map((line) => bendOfLine(line, half, centre)));
  const k = Math.min(MOST_BEND, Math.sqrt(bows / Math.max(units, 1e-9)));
  const bend = (line: TrueLine): TrueLine => ({ ...line, a: bentPoint(line.a, k, half, centre), b: bentPoint(line.b, k, half, centre) });
  return { ...problem, lines: problem.lines.map(bend) };
}
