import { ASSUMED_FOCAL35, focalPxFrom35 } from '../correction/new-correction';
import type { Correction } from '../correction/schema';
import { normaliseQuarterTurns, turnPoint, turnedSize } from '../picture/quarter-turns';
import { multiply3 } from '../linear/mat3';
import { degrees, radians, type Point, type Size } from '../picture/point';
import { attitudeFromRotation, rotationFromAttitude } from './attitude';
import { SURE_LOG_FOCAL } from './focal-doubt';
import { DegeneratePanelError } from './homography-from-corners';
import type { RqSplit } from './rq-split';
import { solvePanel, type PanelSolution } from './panel';
import { solveStance, type Asked, type StanceSolution } from './solve-stance';

/** Angles are stored rounded to this many parts of a degree. */
const PER_DEGREE = 1e6;
const rounded = (deg: number): number => Math.round(deg * PER_DEGREE) / PER_DEGREE;
/** A roll is told within half a turn. */
const roundedRoll = (deg: number): number => rounded(deg - 360 * Math.round(deg / 360));

/** A correction with its stance solved, and how sure that is. */
export interface SolvedCorrection {
  readonly correction: Correction;
  readonly solution: StanceSolution | null;
  /** The panel that decided, when the stance is from a panel. */
  readonly panel: PanelSolution | null;
  /** The focal length, ideal px, when it was asked for. */
  readonly focal: Asked<number> | null;
}

/**
 * Solves the stance and writes it into the document; `adjust` stays as it is. From a panel: its exact homography, split, with aspect and
 * shear; else from the used references and panel edges. Focal length and optical centre are written when they were asked for and found.
 * Without anything usable a solved stance goes back to zero, one by hand stays.
 */
export function solveCorrection(asked: Correction, size: Size): SolvedCorrection {
  const byPanel = asked.stance.from === 'panel' ? firstPanel(asked, size) : null;
  if (byPanel) {
    const focal = panelFocal(asked, byPanel);
    const correction = withFocal(asked, focal);
    const panel = (focal?.found ? firstPanel(correction, size) : null) ?? byPanel;
    const { attitude, aspect, shearDeg } = asked.stance.slanted === 'plumb' ? panel.split : slantingLevel(panel.split);
    const solved = { roll: roundedRoll(attitude.roll), tilt: rounded(attitude.tilt), swing: rounded(attitude.swing) };
    // the split is exact: aspect and shear absorb what a wrong focal length leaves
    const shape = { aspect: Math.min(10, Math.max(0.1, aspect)), shear: Math.max(-60, Math.min(60, rounded(shearDeg))) };
    const stance = { ...correction.stance, ...solved, ...shape };
    return { correction: { ...correction, stance }, solution: solveStance(correction, size), panel, focal };
  }
  const solution = solveStance(asked.stance.from === 'panel' ? { ...asked, stance: { ...asked.stance, from: 'references' } } : asked, size);
  const focal = solution?.focal ?? null;
  const { stance } = asked;
  // what a panel or a pull by hand left in the shape goes when lines take over
  const pulled = stance.pull.scale !== 1 || stance.pull.shift[0] !== 0 || stance.pull.shift[1] !== 0;
  const shape =
    stance.from === 'panel' || pulled
      ? { aspect: 1, shear: 0, slanted: 'plumb' as const, pull: { scale: 1, shift: [0, 0] as [number, number] } }
      : {};
  if (!solution) {
    if (stance.from === 'hand') return { correction: asked, solution, panel: null, focal };
    const back: Correction['stance'] = { ...stance, ...shape, from: 'hand', roll: 0, tilt: 0, swing: 0 };
    return { correction: { ...asked, stance: back }, solution, panel: null, focal };
  }
  const { roll, tilt, swing } = solution.attitude;
  const correction = withCentre(withFocal(asked, focal), solution.centre?.found ?? null, size);
  return {
    correction: {
      ...correction,
      stance: { ...stance, ...shape, from: 'references', roll: roundedRoll(roll), tilt: rounded(tilt), swing: rounded(swing) },
    },
    solution,
    panel: null,
    focal,
  };
}

/** The same map with what is level slanted in place of what is plumb: U R = L (Q R), Q a roll. */
function slantingLevel({ attitude, aspect, shearDeg }: PanelSolution['split']): Pick<RqSplit, 'attitude' | 'aspect' | 'shearDeg'> {
  const [u, w] = [Math.sqrt(aspect), 1 / Math.sqrt(aspect)];
  const v = -Math.tan(radians(shearDeg)) * w;
  const p = Math.hypot(u, v);
  const [c, s] = [u / p, v / p];
  const turned = multiply3([c, s, 0, -s, c, 0, 0, 0, 1], rotationFromAttitude(attitude));
  return { attitude: attitudeFromRotation(turned), aspect: p / (w * c), shearDeg: degrees(Math.atan((w * s) / p)) };
}

/** A solved focal length, ideal px, in the document; unchanged without one. */
const withFocal = (correction: Correction, focal: Asked<number> | null): Correction =>
  focal?.found == null
    ? correction
    : {
        ...correction,
        camera: { ...correction.camera, focalPx: rounded(focal.found), focalFrom: 'references', focalSd: Math.min(2, rounded(focal.sd)) },
      };

/** A solved optical centre, turned ideal px, in the document, which keeps it in picture px; unchanged without one. */
function withCentre(correction: Correction, centre: Point | null, size: Size): Correction {
  if (!centre) return correction;
  const { quarterTurns } = correction.stance;
  const [x, y] = turnPoint(centre, turnedSize(size, quarterTurns), normaliseQuarterTurns(-quarterTurns));
  return { ...correction, camera: { ...correction.camera, centre: [rounded(x), rounded(y)] } };
}

/** A panel's own focal length is not taken when it is less sure than this. */
const UNSUREST_LOG_FOCAL = 0.35;

/** What a panel says of the focal length, when it is asked for, or merely assumed and clearly contradicted. */
function panelFocal({ camera, picture }: Correction, panel: PanelSolution): Asked<number> | null {
  if (camera.flat || (camera.focalFrom !== 'assumed' && camera.focalFrom !== 'references')) return null;
  const { focal } = panel;
  if (!focal)
    return {
      found: null,
      why: 'One panel tells the focal length only when it is seen from below or above and from the side, by 3 degrees or more each.',
    };
  const off = Math.abs(Math.log(focal.px / (camera.focalPx ?? focalPxFrom35(ASSUMED_FOCAL35, picture))));
  const clear = focal.sdLog < SURE_LOG_FOCAL || camera.focalFrom === 'references' || off > 2 * focal.sdLog;
  if (focal.sdLog < UNSUREST_LOG_FOCAL && clear) return { found: focal.px, sd: focal.sdLog };
  return {
    found: null,
    why: `This panel converges too little to tell the focal length (${(focal.sdLog * 100).toFixed(0)} % either way); it stays as it was. Type it, or mark a panel seen more from the side.`,
  };
}

/** The first used panel that can be solved; one that cannot is passed over, its sentence is shown where it is drawn. */
function firstPanel(correction: Correction, size: Size): PanelSolution | null {
  for (const panel of correction.panels) {
    if (!panel.used) continue;
    try {
      const solved = solvePanel(correction, size, panel);
      if (solved) return solved;
    } catch (error) {
      if (!(error instanceof DegeneratePanelError)) throw error;
    }
  }
  return null;
}
