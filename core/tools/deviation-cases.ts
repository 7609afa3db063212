import {
  deviationOf,
  focalPxFrom35,
  measureReadings,
  planeWarp,
  solvePanel,
  solveStance,
  withNewPanel,
  withPanel,
  type Correction,
  type Panel,
  type Point,
} from '../src/index';
import { dice, openedScene, panelCorners, pointedLines, randomCamera, SCENE, type Dice, type SceneCamera } from './random-scenes';

type Kind = 'plumb' | 'level' | 'return';

/** How errors divided by their stated deviations scatter. */
export interface Scatter {
  readonly count: number;
  readonly rms: number;
  /** Shares beyond two deviations, and the greatest. */
  readonly beyondTwo: number;
  readonly most: number;
}

export const scatterOf = (errors: readonly number[]): Scatter => ({
  count: errors.length,
  rms: Math.sqrt(errors.reduce((sum, e) => sum + e * e, 0) / Math.max(1, errors.length)),
  beyondTwo: errors.filter((e) => Math.abs(e) > 2).length / Math.max(1, errors.length),
  most: Math.max(0, ...errors.map(Math.abs)),
});

/** Pointing: a mouse on the picture's own pixels, and at fit zoom with one screen px being nine of the picture (0.6 of it). */
const POINTING = { close: 1, fit: 5.4 } as const;

/** What is known of the focal length: the truth is drawn as that says. */
type Focal = 'known' | 'metadata' | 'assumed' | 'solved';

const TOLD_35 = 28;

function focalOf(focal: Focal, d: Dice): { readonly focal35: number; readonly camera: (px: number) => Partial<Correction['camera']> } {
  const told = focalPxFrom35(TOLD_35, SCENE);
  switch (focal) {
    case 'known':
      return { focal35: 20 + 65 * d.uniform(), camera: (focalPx) => ({ focalPx, focalFrom: 'typed' }) };
    case 'metadata':
      return { focal35: TOLD_35 - 0.5 + d.uniform(), camera: () => ({ focalPx: told, focalFrom: 'metadata' }) };
    case 'assumed':
      return { focal35: TOLD_35 * 1.6 ** Math.max(-2, Math.min(2, d.normal())), camera: () => ({ focalPx: told, focalFrom: 'assumed' }) };
    case 'solved':
      return { focal35: 20 + 65 * d.uniform(), camera: () => ({ focalPx: told, focalFrom: 'references' }) };
  }
}

/** Bend of a lens that nobody took out: a hundredth or two of the radius, either way. */
const BEND_SD = 0.02;

/** One kind of scene: what is known, how it is pointed at, and what is drawn. */
export interface Case {
  readonly focal: Focal;
  readonly pointing: keyof typeof POINTING;
  readonly bowed: boolean;
  readonly lines: readonly Kind[];
}

const lines = (plumb: number, level: number, back = 0): readonly Kind[] => [
  ...Array<Kind>(plumb).fill('plumb'),
  ...Array<Kind>(level).fill('level'),
  ...Array<Kind>(back).fill('return'),
];

export const CASES: Readonly<Record<string, Case>> = {
  'known, two plumb': { focal: 'known', pointing: 'close', bowed: false, lines: lines(2, 0) },
  'known, three plumb, fit zoom': { focal: 'known', pointing: 'fit', bowed: false, lines: lines(3, 0) },
  'known, two and two': { focal: 'known', pointing: 'close', bowed: false, lines: lines(2, 2) },
  'known, four and four, fit zoom': { focal: 'known', pointing: 'fit', bowed: false, lines: lines(4, 4) },
  'known, four and four, bowed': { focal: 'known', pointing: 'close', bowed: true, lines: lines(4, 4) },
  'known, twelve': { focal: 'known', pointing: 'close', bowed: false, lines: lines(5, 4, 3) },
  'metadata, two plumb': { focal: 'metadata', pointing: 'close', bowed: false, lines: lines(2, 0) },
  'metadata, four and four': { focal: 'metadata', pointing: 'close', bowed: false, lines: lines(4, 4) },
  'metadata, two of each, bowed': { focal: 'metadata', pointing: 'close', bowed: true, lines: lines(2, 2, 2) },
  'assumed, two plumb': { focal: 'assumed', pointing: 'close', bowed: false, lines: lines(2, 0) },
  'assumed, four plumb, fit zoom': { focal: 'assumed', pointing: 'fit', bowed: false, lines: lines(4, 0) },
  'assumed, four and four': { focal: 'assumed', pointing: 'close', bowed: false, lines: lines(4, 4) },
  'assumed, four and four, fit zoom, bowed': { focal: 'assumed', pointing: 'fit', bowed: true, lines: lines(4, 4) },
  'solved, four and four': { focal: 'solved', pointing: 'close', bowed: false, lines: lines(4, 4) },
  'solved, twelve, fit zoom': { focal: 'solved', pointing: 'fit', bowed: false, lines: lines(5, 4, 3) },
};

const MOVEMENTS = ['roll', 'tilt', 'swing'] as const;

/** A scene of a case: the camera that took it, and its correction with everything drawn and nothing solved. */
function sceneOf({ focal, pointing, bowed, lines: kinds }: Case, d: Dice): { readonly camera: SceneCamera; readonly drawn: Correction } {
  const { focal35, camera: known } = focalOf(focal, d);
  const camera = randomCamera(d, focal35);
  const references = pointedLines(d, camera, kinds, POINTING[pointing], bowed ? BEND_SD * d.normal() : 0);
  return { camera, drawn: { ...openedScene(known(camera.focalPx)), references } };
}

/** Errors of roll, tilt and swing over their stated deviations, over random scenes; where the focal length was asked for, only where it was found. */
export function attitudeErrors(scene: Case, seed: number, count: number): number[] {
  const d = dice(seed);
  return Array.from({ length: count }, () => {
    const { camera, drawn } = sceneOf(scene, d);
    const solution = solveStance(drawn, SCENE);
    if (!solution || (scene.focal === 'solved' && solution.focal?.found == null)) return [];
    return MOVEMENTS.flatMap((m) => {
      const deviation = solution.sd[m];
      return deviation === null ? [] : [(solution.attitude[m] - camera.attitude[m]) / deviation];
    });
  }).flat();
}

/** Errors of the attitude that a panel says over its stated deviations, over random panels; where it says none, nothing. */
export function panelAttitudeErrors(focal: Exclude<Focal, 'solved'>, seed: number, count: number): number[] {
  const d = dice(seed);
  return Array.from({ length: count }, () => {
    const { focal35, camera: known } = focalOf(focal, d);
    const camera = randomCamera(d, focal35);
    const pointed = panelCorners(d, camera).corners.map(([x, y]) => [x + d.normal(), y + d.normal()]);
    const drawn = withNewPanel(openedScene(known(camera.focalPx)), {
      corners: pointed as unknown as NonNullable<Panel['corners']>,
      placedPx: 1,
    });
    const panel = solvePanel(drawn, SCENE, drawn.panels[0] as Panel);
    if (!panel || panel.doubts.length === 0) return [];
    return MOVEMENTS.map((m) => {
      const at = panel.sight.attitude[m];
      return (at - camera.attitude[m]) / deviationOf(panel.doubts, (sight) => sight.attitude[m], at);
    });
  }).flat();
}

/** Errors of a computed panel ratio's logarithm over its stated deviation, over random panels. */
export function panelErrors(focal: Exclude<Focal, 'solved'>, seed: number, count: number): number[] {
  const d = dice(seed);
  return Array.from({ length: count }, () => {
    const { focal35, camera: known } = focalOf(focal, d);
    const camera = randomCamera(d, focal35);
    const { corners, ratio } = panelCorners(d, camera);
    const pointed = corners.map(([x, y]) => [x + d.normal(), y + d.normal()]) as unknown as NonNullable<Panel['corners']>;
    const drawn = withNewPanel(openedScene(known(camera.focalPx)), { corners: pointed, placedPx: 1 });
    const panel = solvePanel(drawn, SCENE, drawn.panels[0] as Panel);
    return panel && Number.isFinite(panel.ratioSdLog) ? [Math.log(panel.ratio / ratio) / panel.ratioSdLog] : [];
  }).flat();
}

/** Errors of a length on a panel's plane over its stated deviation: the panel's size typed, ends and corners pointed at to a pixel. */
export function lengthErrors(seed: number, count: number): number[] {
  const d = dice(seed);
  return Array.from({ length: count }, () => {
    const camera = randomCamera(d, 24 + 40 * d.uniform());
    const { corners, ratio } = panelCorners(d, camera);
    const noisy = (p: Point): [number, number] => [p[0] + d.normal(), p[1] + d.normal()];
    const [a, , c] = corners as [Point, Point, Point, Point];
    const panel = { corners: corners.map(noisy) as unknown as NonNullable<Panel['corners']>, placedPx: 1 };
    const marked = withNewPanel(openedScene({ focalPx: camera.focalPx, focalFrom: 'typed' }), panel);
    const sized = withPanel(marked, 'p1', { size: { width: 1000 * ratio, height: 1000, unit: 'mm' } });
    const measured = {
      ...sized,
      crop: { ...sized.crop, edges: 'keep' as const },
      measures: [{ id: 'm1', a: noisy(a), b: noisy(c), placedPx: 1 }],
    };
    const [reading] = measureReadings(measured, planeWarp(measured, SCENE));
    return reading?.mm == null || reading.sdMm === null ? [] : [(reading.mm - Math.hypot(1000 * ratio, 1000)) / reading.sdMm];
  }).flat();
}

/**
 * Scenes of four plumb and four level lines at 20 to 85 mm of which nothing is known: in what share the lines tell the focal length, in
 * what share of those the truth lies in the stated range, and how far off the stance then is beside what the same lines say with the
 * length known (medians of all three angles together).
 */
export function focalRanges(seed: number, count: number): { readonly told: number; readonly within: number; readonly asNear: number } {
  const d = dice(seed);
  const scene: Case = { focal: 'solved', pointing: 'close', bowed: false, lines: lines(4, 4) };
  let within = 0;
  const off: { readonly solved: number; readonly known: number }[] = [];
  for (let i = 0; i < count; i += 1) {
    const { camera, drawn } = sceneOf(scene, d);
    const solved = solveStance({ ...drawn, camera: { ...drawn.camera, focalFrom: 'assumed' } }, SCENE);
    const range = solved?.focalSaid;
    if (!solved || !range || solved.focal?.found == null) continue;
    const known = solveStance({ ...drawn, camera: { ...drawn.camera, focalPx: camera.focalPx, focalFrom: 'typed' } }, SCENE);
    if (!known) continue;
    if ((range.low ?? 0) <= camera.focalPx && camera.focalPx <= (range.high ?? Infinity)) within += 1;
    const error = (at: typeof camera.attitude): number => Math.hypot(...MOVEMENTS.map((m) => at[m] - camera.attitude[m]));
    off.push({ solved: error(solved.attitude), known: error(known.attitude) });
  }
  const median = (values: readonly number[]): number => [...values].sort((p, q) => p - q)[values.length >> 1] as number;
  return {
    told: off.length / count,
    within: within / Math.max(1, off.length),
    asNear: median(off.map((o) => o.solved)) / median(off.map((o) => o.known)),
  };
}
