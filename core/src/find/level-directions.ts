import { apply3, rotationX, rotationZ, multiply3, type Vec3 } from '../linear/mat3';
import { degrees, radians } from '../picture/point';
import type { SeenCamera } from '../stance/line-residuals';
import { heldAgainst, offDeg, refine, seenDeg, seenDirection, AGREES_DEG, type Taken } from './agreeing';
import { MOST_COUNTED } from './plumb-direction';
import type { Witness } from './witnesses';

/** A way that level edges run: their azimuth off the picture's own, and who says so. */
export interface LevelDirection {
  /** Degrees, -90..90; 0 across the picture, positive where it goes away to the right. */
  readonly azimuth: number;
  readonly agree: readonly Witness[];
  /** As of plumb things, diagonals. */
  readonly support: number;
}

const BIN = 0.25;
const BINS = 180 / BIN;
const MOST_DIRECTIONS = 3;
/** Directions nearer each other are one, degrees. */
const APART_DEG = 4;
/** An edge whose azimuth is less sure than this, degrees, says nothing: it lies along the eye line. */
const UNSUREST_DEG = 6;

/** Azimuth of an edge taken for level under a roll and tilt, degrees, and by how much it turns for a degree of the edge's own. */
function azimuthOf({ p, q, length }: Witness, camera: SeenCamera): { readonly deg: number; readonly per: number } | null {
  const { focalPx, centreX, centreY } = camera;
  const r = multiply3(rotationX(radians(camera.tilt)), rotationZ(radians(camera.roll)));
  const ray = (x: number, y: number): Vec3 => apply3(r, [(x - centreX) / focalPx, (y - centreY) / focalPx, 1]);
  const azimuth = (turn: number): number | null => {
    // the edge turned about its middle
    const [dx, dy] = [((p[1] - q[1]) / 2) * turn, ((q[0] - p[0]) / 2) * turn];
    const [a, b] = [ray(p[0] - dx, p[1] - dy), ray(q[0] + dx, q[1] + dy)];
    // where the plane through it and the eye cuts the level plane
    const [nx, nz] = [a[1] * b[2] - a[2] * b[1], a[0] * b[1] - a[1] * b[0]];
    return Math.hypot(nx, nz) < 1e-9 * length ? null : degrees(Math.atan2(nx, -nz));
  };
  const [at, moved] = [azimuth(0), azimuth(radians(0.1))];
  if (at === null || moved === null) return null;
  return { deg: wrapped(at), per: Math.abs(wrapped(moved - at)) / 0.1 };
}

/** Lines have no direction: within -90..90. */
export const wrapped = (deg: number): number => deg - 180 * Math.round(deg / 180);

/**
 * The ways that level edges run under a roll and tilt, the best supported first: peaks of the azimuths of all edges that are not plumb,
 * each refined by itself.
 */
export function levelDirections(witnesses: readonly Witness[], camera: SeenCamera, diagonalPx: number): LevelDirection[] {
  const histogram = new Float64Array(BINS);
  for (const witness of witnesses) {
    const azimuth = azimuthOf(witness, camera);
    if (!azimuth) continue;
    const spread = azimuth.per * Math.hypot(AGREES_DEG, seenDeg(witness));
    if (spread > UNSUREST_DEG) continue;
    const half = Math.max(2, Math.round((2 * spread) / BIN));
    const weight = Math.min(MOST_COUNTED, witness.length / diagonalPx) / half;
    const middle = (azimuth.deg + 90) / BIN;
    for (let k = -half; k <= half; k += 1) {
      const bin = (((Math.round(middle) + k) % BINS) + BINS) % BINS;
      histogram[bin] = (histogram[bin] as number) + weight * (1 - Math.abs(k) / (half + 1));
    }
  }
  const at = (bin: number): number => histogram[((bin % BINS) + BINS) % BINS] as number;
  const peaks = Array.from({ length: BINS }, (_, bin) => bin)
    .filter((bin) => at(bin) > 0 && [-3, -2, -1, 1, 2, 3].every((k) => at(bin + k) <= at(bin)))
    .sort((p, q) => at(q) - at(p));
  const found: LevelDirection[] = [];
  for (const bin of peaks.slice(0, 3 * MOST_DIRECTIONS)) {
    const start = { ...camera, swing: bin * BIN - 90 };
    const direction = seenDirection(start, 'level');
    const near = witnesses.filter((witness) => offDeg(witness, start, direction) <= APART_DEG);
    const taken = near.map((witness): Taken => ({ witness, kind: 'level' }));
    const refined = withLevels(taken, start, diagonalPx);
    if (!refined) continue;
    const azimuth = wrapped(refined.swing);
    if (found.some((other) => Math.abs(wrapped(other.azimuth - azimuth)) < APART_DEG)) continue;
    const { agree } = heldAgainst(witnesses, refined, 'level', 0);
    const telling = agree.filter((witness) => {
      const own = azimuthOf(witness, camera);
      return own !== null && own.per * AGREES_DEG <= UNSUREST_DEG;
    });
    const support = telling.reduce((sum, { length }) => sum + Math.min(MOST_COUNTED, length / diagonalPx), 0);
    found.push({ azimuth, agree: telling, support });
  }
  return found.sort((p, q) => q.support - p.support).slice(0, MOST_DIRECTIONS);
}

/** The swing under which level edges run along the front; roll and tilt stay. */
function withLevels(taken: readonly Taken[], start: SeenCamera, diagonalPx: number): SeenCamera | null {
  const refined = refine(taken, start, ['swing'], diagonalPx, [2, 1, 0.5, AGREES_DEG]);
  return Number.isFinite(refined.swing) && Math.abs(wrapped(refined.swing - start.swing)) < 3 * APART_DEG ? refined : null;
}
