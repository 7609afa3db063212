import type { LensModel } from '../correction/schema';
import { levenbergMarquardt, solveLinear } from '../linear/levenberg-marquardt';
import { PlumbError } from '../picture/failure';
import type { Point, Size } from '../picture/point';
import { LensFoldsError } from './lens-map';
import { lensOf } from './lens-of';

/** The corners of one picture of a board, row by row, picture px. */
export interface BoardView {
  readonly name: string;
  readonly corners: readonly Point[];
}

/** What pictures of a checkerboard say of the lens. */
export interface BoardCalibration {
  readonly model: Extract<LensModel, { kind: 'brown-conrady' }>;
  /** Standard deviations of the focal length and the centre, px. */
  readonly focalSdPx: number;
  readonly centreSdPx: number;
  /** Root mean square distance of the corners from where the calibration puts them, px: of all, and of each picture. */
  readonly errorPx: number;
  readonly views: readonly { readonly name: string; readonly errorPx: number }[];
  /** Largest radius that a corner reached, half diagonals about the picture's middle. */
  readonly reach: number;
}

const LEAST_VIEWS = 3;
/** A focal length less certain than this says nothing: boards that all face the camera squarely. */
const UNSURE_FOCAL = 0.03;
/** Corners are not placed better than this, px: keeps a perfect fit from claiming perfect certainty. */
const LEAST_SIGMA_PX = 0.03;
/** Parameters of the lens, then six for each picture; the last of the lens's is k3. */
const LENS = 9;
const K3 = 8;

/**
 * Lens and focal length from pictures of one flat checkerboard: homographies give a first focal length, then everything is fitted
 * together, the corners' distances in picture px being least.
 *
 * @param across inner corners a row; corners are one unit apart
 * @throws PlumbError when there are too few pictures, or they do not determine the focal length
 * Source: Zhang 2000, A flexible new technique for camera calibration.
 */
export function calibrateBoard(views: readonly BoardView[], across: number, size: Size): BoardCalibration {
  if (views.length < LEAST_VIEWS)
    throw new PlumbError(
      'too-few-boards',
      `The board was found in ${views.length} ${views.length === 1 ? 'picture' : 'pictures'}; ${LEAST_VIEWS} are the least, ten or more are good.`,
      'Take more, tilted this way and that, the board filling the corners too.',
    );
  const centre: Point = [size.width / 2, size.height / 2];
  const board = (views[0] as BoardView).corners.map((_, k): Point => [k % across, Math.floor(k / across)]);
  const homographies = views.map(({ corners }) =>
    homographyOf(
      board,
      corners.map((p): Point => [p[0] - centre[0], p[1] - centre[1]]),
      size,
    ),
  );
  const focal = firstFocal(homographies) ?? 1.2 * size.width;
  const start = [focal, focal, ...centre, 0, 0, 0, 0, 0, ...homographies.flatMap((h) => poseOf(h, focal))];
  const unit = size.width;
  const steps = start.map((_, k) => (k < 4 ? 1e-3 : k < LENS ? 1e-6 : (k - LENS) % 6 < 3 ? 1e-6 : 1e-5));
  const residuals = (x: readonly number[]): number[] => {
    const off: number[] = [];
    views.forEach(({ corners }, v) => {
      const project = projection(x, LENS + 6 * v);
      corners.forEach((corner, k) => {
        const [px, py] = project(board[k] as Point);
        off.push(px - corner[0], py - corner[1]);
      });
    });
    return off.map((v) => (Number.isFinite(v) ? v : unit));
  };
  let { x, cost, normal } = levenbergMarquardt(residuals, start, steps);
  if (folds(x, size)) {
    // too few corners near the picture's own: the last power runs away where nothing was measured
    const without = (y: readonly number[]): number[] => y.map((v, k) => (k === K3 ? 0 : v));
    ({ x, cost, normal } = levenbergMarquardt((y) => [...residuals(without(y)), y[K3] as number], without(x), steps));
    if (folds(x, size))
      throw new PlumbError(
        'boards-in-the-middle',
        'The boards lie so near the middle that nothing is known of the corners: what fits them would fold the picture there.',
        'Take some in which the board reaches into the corners.',
      );
  }
  const off = residuals(x);
  const count = board.length * views.length;
  const errorPx = Math.sqrt((2 * cost) / count);
  const sigmaSq = Math.max(LEAST_SIGMA_PX ** 2, (2 * cost) / Math.max(1, 2 * count - x.length));
  const sd = (k: number): number => {
    const column = solveLinear(
      normal,
      x.map((_, i) => (i === k ? 1 : 0)),
    );
    const variance = (column?.[k] ?? Infinity) * sigmaSq;
    // what is not determined at all comes out of rounding as anything, below zero too
    return variance > 0 ? Math.sqrt(variance) : Infinity;
  };
  const model = modelOf(x);
  const focalSdPx = sd(0);
  if (!(focalSdPx < UNSURE_FOCAL * model.fx) || !(model.fx > 0) || !(model.fy > 0))
    throw new PlumbError(
      'boards-alike',
      'These pictures do not tell the focal length: the board faces the camera in the same way in all of them.',
      'Take some with the board tilted by 20 to 40 degrees, to the left, to the right, up and down.',
    );
  const half = Math.hypot(size.width, size.height) / 2;
  return {
    model,
    focalSdPx,
    centreSdPx: Math.max(sd(2), sd(3)),
    errorPx,
    views: views.map(({ name }, v) => {
      const own = off.slice(2 * board.length * v, 2 * board.length * (v + 1));
      return { name, errorPx: Math.sqrt(own.reduce((sum, r) => sum + r * r, 0) / board.length) };
    }),
    reach: Math.max(...views.flatMap(({ corners }) => corners.map((p) => Math.hypot(p[0] - centre[0], p[1] - centre[1])))) / half,
  };
}

const modelOf = (x: readonly number[]): BoardCalibration['model'] => {
  const [fx, fy, cx, cy, k1, k2, p1, p2, k3] = x as [number, number, number, number, number, number, number, number, number];
  return { kind: 'brown-conrady', fx, fy, cx, cy, k1, k2, p1, p2, k3 };
};

/** Whether a lens folds before it reaches the picture's corners. */
function folds(x: readonly number[], size: Size): boolean {
  try {
    lensOf(modelOf(x), size);
    return false;
  } catch (error) {
    if (error instanceof LensFoldsError) return true;
    throw error;
  }
}

/** Board -> picture px for the lens in `x` and the pose at `pose` (rotation vector, then position in squares). */
function projection(x: readonly number[], pose: number): (p: Point) => Point {
  const [fx, fy, cx, cy, k1, k2, p1, p2, k3] = x as [number, number, number, number, number, number, number, number, number];
  const [rx, ry, rz, tx, ty, tz] = x.slice(pose, pose + 6) as [number, number, number, number, number, number];
  const angle = Math.hypot(rx, ry, rz);
  const [s, c] = angle < 1e-9 ? [1, 0.5] : [Math.sin(angle) / angle, (1 - Math.cos(angle)) / (angle * angle)];
  // the first two columns of the rotation (Rodrigues)
  const a = [1 - c * (ry * ry + rz * rz), c * rx * ry + s * rz, c * rx * rz - s * ry] as const;
  const b = [c * rx * ry - s * rz, 1 - c * (rx * rx + rz * rz), c * ry * rz + s * rx] as const;
  return ([i, j]) => {
    const z = a[2] * i + b[2] * j + tz;
    const u = (a[0] * i + b[0] * j + tx) / z;
    const v = (a[1] * i + b[1] * j + ty) / z;
    const r2 = u * u + v * v;
    const k = 1 + r2 * (k1 + r2 * (k2 + r2 * k3));
    return [fx * (u * k + 2 * p1 * u * v + p2 * (r2 + 2 * u * u)) + cx, fy * (v * k + p1 * (r2 + 2 * v * v) + 2 * p2 * u * v) + cy];
  };
}

/** Homography board -> picture (about its middle) by least squares, h33 = 1; row-major. */
function homographyOf(board: readonly Point[], corners: readonly Point[], size: Size): number[] {
  const scale = size.width;
  const normal = new Array<number>(64).fill(0);
  const right = new Array<number>(8).fill(0);
  const add = (row: readonly number[], value: number): void => {
    for (let i = 0; i < 8; i += 1) {
      right[i] = (right[i] as number) + (row[i] as number) * value;
      for (let j = 0; j < 8; j += 1) normal[i * 8 + j] = (normal[i * 8 + j] as number) + (row[i] as number) * (row[j] as number);
    }
  };
  board.forEach(([i, j], k) => {
    const [x, y] = (corners[k] as Point).map((v) => v / scale) as [number, number];
    add([i, j, 1, 0, 0, 0, -x * i, -x * j], x);
    add([0, 0, 0, i, j, 1, -y * i, -y * j], y);
  });
  const h = solveLinear(normal, right);
  if (!h) throw new PlumbError('board-degenerate', 'The corners of the board lie on one line.', 'Leave that picture out.');
  return [...h.map((v, k) => (k < 6 ? v * scale : v)), 1];
}

/** 1 / f^2 by least squares from the two conditions that every homography puts on it; null where they contradict each other. */
function firstFocal(homographies: readonly (readonly number[])[]): number | null {
  let [top, bottom] = [0, 0];
  for (const h of homographies) {
    const [a, b] = [
      [h[0], h[3], h[6]],
      [h[1], h[4], h[7]],
    ] as unknown as [readonly [number, number, number], readonly [number, number, number]];
    const size = Math.hypot(...a) * Math.hypot(...b);
    for (const [p, q] of [
      [(a[0] * b[0] + a[1] * b[1]) / size, (a[2] * b[2]) / size],
      [(a[0] * a[0] + a[1] * a[1] - b[0] * b[0] - b[1] * b[1]) / size, (a[2] * a[2] - b[2] * b[2]) / size],
    ] as const) {
      top -= p * q;
      bottom += p * p;
    }
  }
  return top > 0 && bottom > 0 ? Math.sqrt(bottom / top) : null;
}

/** Rotation vector and position (squares) of the board before a camera of focal length f, from its homography. */
function poseOf(h: readonly number[], f: number): number[] {
  const column = (k: number): [number, number, number] => [(h[k] as number) / f, (h[k + 3] as number) / f, h[k + 6] as number];
  const [a, b, t] = [column(0), column(1), column(2)];
  const scale = Math.sqrt(Math.hypot(...a) * Math.hypot(...b));
  const unit = (v: readonly number[]): [number, number, number] => v.map((c) => c / Math.hypot(...v)) as [number, number, number];
  const dot = (p: readonly number[], q: readonly number[]): number => p.reduce((sum, v, i) => sum + v * (q[i] as number), 0);
  const r1 = unit(a);
  const r2 = unit(b.map((v, i) => v - dot(b, r1) * (r1[i] as number)));
  const r3 = [r1[1] * r2[2] - r1[2] * r2[1], r1[2] * r2[0] - r1[0] * r2[2], r1[0] * r2[1] - r1[1] * r2[0]] as const;
  const angle = Math.acos(Math.min(1, Math.max(-1, (r1[0] + r2[1] + r3[2] - 1) / 2)));
  const s = angle < 1e-9 ? 0.5 : angle / (2 * Math.sin(angle));
  const vector = [(r2[2] - r3[1]) * s, (r3[0] - r1[2]) * s, (r1[1] - r2[0]) * s];
  return [...vector, ...t.map((v) => v / scale)];
}
