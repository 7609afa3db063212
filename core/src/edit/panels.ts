import { correctionSchema, type Correction, type Panel } from '../correction/schema';
import { keepCropInPlace } from './keep-crop-in-place';
import { movedPoint } from './references';
import type { Point } from '../picture/point';
import { panelPoints } from '../stance/panel-points';
import { PLACED_PX } from '../stance/placed';
import { solveCorrection } from '../stance/solve-correction';
import type { PlaneWarp } from '../warp/plane-warp';
import { mapQuad } from '../picture/quad';

/** A panel by its corners or by its edges, picture px; it decides the stance from now on. */
export function withNewPanel(
  correction: Correction,
  marked: Pick<Panel, 'corners' | 'placedPx'> | Pick<Panel, 'edges' | 'placedPx'>,
): Correction {
  const largest = correction.panels.reduce((most, p) => Math.max(most, Number(/^p(\d+)$/.exec(p.id)?.[1] ?? 0)), 0);
  const panel: Panel = { id: `p${largest + 1}`, ...marked, size: null, margins: { top: 0, right: 0, bottom: 0, left: 0 }, used: true };
  return withPanels({ ...correction, stance: { ...correction.stance, from: 'panel' } }, [...correction.panels, panel]);
}

/** The document with other panels, solved anew; a crop around a panel that is gone goes back to what is marked. */
export function withPanels(correction: Correction, panels: readonly Panel[]): Correction {
  const used = panels.some((p) => p.used);
  // a panel that comes back into use decides again, whatever was set meanwhile
  const gained = used && !correction.panels.some((p) => p.used);
  const { crop, stance } = correction;
  const next: Correction = {
    ...correction,
    panels: [...panels],
    stance: { ...stance, from: gained ? 'panel' : stance.from },
    crop: crop.around === 'panel' && !used ? { ...crop, around: 'lines' } : crop,
  };
  return keepCropInPlace(correction, solveCorrection(next, correction.picture).correction);
}

/**
 * Who decides while there are panels and lines: the first panel exactly, or all lines together with the panels' edges, which leave
 * aspect and shear alone.
 */
export function withDecider(correction: Correction, from: 'panel' | 'references'): Correction {
  const shape: Partial<Correction['stance']> =
    from === 'references' ? { aspect: 1, shear: 0, slanted: 'plumb' as const, pull: { scale: 1, shift: [0, 0] } } : {};
  const asked = { ...correction, stance: { ...correction.stance, from, ...shape } };
  return keepCropInPlace(correction, solveCorrection(asked, correction.picture).correction);
}

/** A picture of its own from one panel: the same original, only that panel left, the crop around it. */
export function ofPanelAlone(correction: Correction, id: string): Correction {
  const panels = correction.panels.filter((p) => p.id === id).map((p) => ({ ...p, used: true }));
  const { rect: _dropped, ...crop } = correction.crop;
  const alone: Correction = {
    ...correction,
    references: [],
    measures: [],
    guides: [],
    panels,
    stance: {
      ...correctionSchema.shape.stance.parse({}),
      from: 'panel',
      front: correction.stance.front,
      quarterTurns: correction.stance.quarterTurns,
    },
    crop: { ...crop, around: 'panel', edges: 'clear' },
  };
  return solveCorrection(alone, correction.picture).correction;
}

/** The document without one panel. */
export const withoutPanel = (correction: Correction, id: string): Correction =>
  withPanels(
    correction,
    correction.panels.filter((p) => p.id !== id),
  );

/** The document with one panel changed. */
export const withPanel = (correction: Correction, id: string, change: Partial<Panel>): Correction =>
  withPanels(
    correction,
    correction.panels.map((p) => (p.id === id ? { ...p, ...change } : p)),
  );

/** A panel with one of its handles (a corner, or an edge's end) moved by a way on the plane; null without an image there. */
export function movedPanelPoint(warp: PlaneWarp, panel: Panel, index: number, by: Point): Panel | null {
  const from = panelPoints(panel)[index];
  const next = from && movedPoint(warp, from, by);
  return next ? withPanelPoint(panel, index, next) : null;
}

/** A panel with one of its handles at a picture point, px. */
export function withPanelPoint({ corners, edges, ...panel }: Panel, index: number, at: readonly [number, number]): Panel {
  const put = (p: [number, number], i: number): [number, number] => (i === index ? [at[0], at[1]] : p);
  if (edges)
    return {
      ...panel,
      edges: mapQuad(edges, ([a, b]: [[number, number], [number, number]], k): [typeof a, typeof b] => [put(a, 2 * k), put(b, 2 * k + 1)]),
    };
  return corners ? { ...panel, corners: mapQuad(corners, put) } : panel;
}

/** A panel one of whose points was placed anew, so well: what is said of all of them is their root mean square, px. */
export function withPlacedPoint(panel: Panel, placedPx: number): Panel {
  const count = panelPoints(panel).length;
  return { ...panel, placedPx: Math.sqrt(((count - 1) * (panel.placedPx ?? PLACED_PX) ** 2 + placedPx ** 2) / count) };
}
