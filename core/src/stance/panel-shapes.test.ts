import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  correctionSchema,
  distanceMm,
  draggedMargin,
  focalPxFrom35,
  newCorrection,
  ofPanelAlone,
  panelBox,
  planeScale,
  solveCorrection,
  solvePanel,
  toPlane,
  withDecider,
  withMeasure,
  withNewPanel,
  withPanel,
  withTrim,
  measureReadings,
  type Correction,
  type Panel,
  type Point,
} from '../index';

const truth = JSON.parse(readFileSync(new URL('../../../demo/job/name-plate.truth.json', import.meta.url), 'utf8')) as {
  width: number;
  height: number;
  focal35: number;
  stance: { roll: number; tilt: number; swing: number };
  panels: { corners: [number, number][]; widthMm: number; heightMm: number }[];
};
const corners = truth.panels[0]!.corners as unknown as NonNullable<Panel['corners']>;
const [tl, tr, br, bl] = corners;
const opened = (): Correction => newCorrection({ name: 'plate', width: truth.width, height: truth.height, focal35: truth.focal35 });
const at = (a: Point, b: Point, t: number): [number, number] => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
const typed = (c: Correction): Correction =>
  withTrim(withPanel(c, 'p1', { size: { width: 1200, height: 450, unit: 'mm' } }), { around: 'panel' });

describe('a panel by its four edges', () => {
  it('equals the same panel by corners, whatever the order and wherever along the sides the edges are drawn', () => {
    const byCorners = withNewPanel(opened(), { corners });
    const edges = [
      [at(bl, tl, 0.2), at(bl, tl, 0.7)],
      [at(tl, tr, 0.9), at(tl, tr, 0.3)],
      // drawn beyond the corners
      [at(tr, br, -0.4), at(tr, br, 1.3)],
      [at(br, bl, 0.1), at(br, bl, 0.6)],
    ] as unknown as NonNullable<Panel['edges']>;
    const byEdges = withNewPanel(opened(), { edges });
    for (const movement of ['roll', 'tilt', 'swing', 'aspect', 'shear'] as const)
      expect(byEdges.stance[movement]).toBeCloseTo(byCorners.stance[movement], 5);
    expect(solveCorrection(byEdges, byEdges.picture).panel!.ratio).toBeCloseTo(1200 / 450, 3);
  });

  it('says so when two neighbouring sides never meet, and loses nothing', () => {
    const parallel = [tl, tr, br, bl].map((p) => [p, [p[0] + 300, p[1]]]) as unknown as NonNullable<Panel['edges']>;
    const panel: Panel = { id: 'p1', edges: parallel, size: null, margins: { top: 0, right: 0, bottom: 0, left: 0 }, used: true };
    expect(() => solvePanel(opened(), opened().picture, panel)).toThrow(/never meet/);
    const kept = withNewPanel(opened(), { edges: parallel });
    expect(kept.panels).toHaveLength(1);
    expect(kept.stance.roll).toBe(0);
  });
});

describe('what a panel decides', () => {
  it('its edges count as lines once the lines decide, and find the same camera', () => {
    const c = withDecider(withNewPanel(opened(), { corners }), 'references');
    for (const movement of ['roll', 'tilt', 'swing'] as const)
      expect(Math.abs(c.stance[movement] - truth.stance[movement])).toBeLessThan(0.001);
    expect([c.stance.from, c.stance.aspect, c.stance.shear]).toEqual(['references', 1, 0]);
    expect(withDecider(c, 'panel').stance.from).toBe('panel');
  });

  it('tells the focal length where the metadata are silent, and the ratio with it', () => {
    const c = withNewPanel(newCorrection({ name: 'plate', width: truth.width, height: truth.height, focal35: null }), { corners });
    expect(c.camera.focalFrom).toBe('references');
    expect(c.camera.focalPx! / focalPxFrom35(truth.focal35, truth)).toBeCloseTo(1, 3);
    expect(solveCorrection(c, c.picture).panel!.ratio).toBeCloseTo(1200 / 450, 2);
  });

  it('a computed ratio says how sure it is: surer with a known focal length, and the truth lies within three deviations of 1 px of pointing', () => {
    const moved = corners.map(([x, y], i) => [x + (i % 2 ? 0.8 : -0.8), y + (i < 2 ? 0.7 : -0.7)]) as unknown as typeof corners;
    const known = solvePanel(opened(), opened().picture, withNewPanel(opened(), { corners: moved }).panels[0]!)!;
    expect(Math.abs(Math.log(known.ratio / (1200 / 450)))).toBeLessThan(3 * known.ratioSdLog);
    expect(known.ratioSdLog).toBeLessThan(0.03);
    const assumed = correctionSchema.parse({ ...opened(), camera: { focalPx: opened().camera.focalPx, focalFrom: 'assumed' } });
    expect(
      solvePanel(assumed, assumed.picture, {
        ...known,
        id: 'p1',
        corners,
        size: null,
        margins: { top: 0, right: 0, bottom: 0, left: 0 },
        used: true,
      })!.ratioSdLog,
    ).toBeGreaterThan(3 * known.ratioSdLog);
  });

  it('a paper format lies as it is seen: wide here, tall when the corners are tall (ISO 216, from memory)', () => {
    const wide = withPanel(withNewPanel(opened(), { corners }), 'p1', { size: { paper: 'A4' } });
    expect(solveCorrection(wide, wide.picture).panel!.ratio).toBeCloseTo(297 / 210, 9);
    const tallCorners = corners.map(([x, y]) => [y, x]) as unknown as typeof corners;
    const tall = withPanel(withNewPanel(opened(), { corners: tallCorners }), 'p1', { size: { paper: 'A4' } });
    expect(solveCorrection(tall, tall.picture).panel!.ratio).toBeCloseTo(210 / 297, 9);
  });
});

describe('a panel of known size', () => {
  it('gives the plane a scale: distances on it read true in the typed unit (the plate that was rendered)', () => {
    const c = typed(withNewPanel(opened(), { corners }));
    const warp = composeWarp(c, c.picture);
    const scale = planeScale(c, warp)!;
    expect(distanceMm(warp, scale, { a: tl, b: br })).toBeCloseTo(Math.hypot(1200, 450), 1);
    const measured = withMeasure(withMeasure(c, tl, tr), tl, bl);
    expect(measureReadings(measured, warp).map((m) => m.text)).toEqual(['1200 ±\u00a03 mm', '450.0 ±\u00a01.9 mm']);
    const inches = withPanel(measured, 'p1', { size: { width: 1200 / 25.4, height: 450 / 25.4, unit: 'in' } });
    expect(measureReadings(inches, composeWarp(inches, c.picture))[0]!.text).toBe('47.24 ±\u00a00.10 in');
    // a ratio alone is no scale
    const ratio = withPanel(measured, 'p1', { size: { ratio: 2.5 } });
    expect(measureReadings(ratio, composeWarp(ratio, c.picture)).map((m) => m.text)).toEqual([null, null]);
  });

  it('comes out at 1:n: 1200 mm at 1:5 and 300 ppi are 2835 px', () => {
    const c = typed(withNewPanel(opened(), { corners }));
    const scaled: Correction = { ...c, output: { ...c.output, size: { kind: 'scale', oneTo: 5, ppi: 300 } } };
    const { outputSize } = composeWarp(scaled, c.picture);
    expect([outputSize.width, outputSize.height]).toEqual([Math.round(((1200 / 5) * 300) / 25.4), Math.round(((450 / 5) * 300) / 25.4)]);
    const unscaled = { ...scaled, panels: [] };
    expect(() => composeWarp(withTrim(unscaled, { around: 'picture' }), c.picture)).toThrow(/no scale/);
  });

  it('a margin dragged by its side grows in the typed unit and takes the crop along; never across the other side', () => {
    const c = typed(withNewPanel(opened(), { corners }));
    const warp = composeWarp(c, c.picture);
    const box = panelBox(c, warp, c.panels[0]!)!;
    const margins = draggedMargin(box, c.panels[0]!.margins, 'left', (-60 / 1200) * box.box.width);
    expect(margins.left).toBeCloseTo(60, 6);
    const wider = composeWarp(withPanel(c, 'p1', { margins }), c.picture);
    expect(wider.crop.width / warp.crop.width).toBeCloseTo(1260 / 1200, 3);
    expect(draggedMargin(box, margins, 'top', 1e6).top).toBeGreaterThan(-450);
  });

  it('becomes a picture of its own with nothing but itself', () => {
    const two = withNewPanel(typed(withNewPanel(opened(), { corners })), {
      corners: [
        [200, 300],
        [700, 280],
        [720, 900],
        [190, 880],
      ],
    });
    const alone = ofPanelAlone(two, 'p2');
    expect(alone.panels.map((p) => p.id)).toEqual(['p2']);
    const warp = composeWarp(alone, alone.picture);
    const corner = toPlane(warp, [200, 300])!;
    expect(Math.hypot(corner[0] - warp.crop.x, corner[1] - warp.crop.y)).toBeLessThan(1);
  });
});

describe('a panel on a sheet', () => {
  const sheet = JSON.parse(readFileSync(new URL('../../../demo/job/prints-sheet.truth.json', import.meta.url), 'utf8')) as {
    width: number;
    height: number;
    prints: { angleDeg: number; widthMm: number; heightMm: number; corners: [Point, Point, Point, Point] }[];
  };
  const flat = (): Correction => newCorrection({ name: 'sheet', width: sheet.width, height: sheet.height, focal35: null, flat: true });

  it('only turns: each print upright by its known angle and shape, a pixel of pointing in the figure, no tilt read into it', () => {
    for (const [k, print] of sheet.prints.entries()) {
      // pointed at a pixel off, as a hand does
      const pointed = print.corners.map(([x, y], i): [number, number] => [x + ((i + k) % 2 ? 1 : -1), y + ((i * 3 + k) % 4 < 2 ? 1 : -1)]);
      const c = withNewPanel(flat(), { corners: pointed as NonNullable<Panel['corners']> });
      expect(c.stance).toMatchObject({ from: 'panel', tilt: 0, swing: 0, aspect: 1, shear: 0 });
      expect(Math.abs(c.stance.roll - print.angleDeg), `print ${k}`).toBeLessThan(0.15);
      const { panel } = solveCorrection(c, c.picture);
      expect(Math.abs(panel!.ratio / (print.widthMm / print.heightMm) - 1)).toBeLessThan(0.005);
      expect(panel!.ratioSdLog).toBeLessThan(0.003);
      const exact = withNewPanel(flat(), { corners: print.corners.map((p) => [...p]) as unknown as NonNullable<Panel['corners']> });
      const [a, b, , d] = print.corners.map((p) => toPlane(composeWarp(exact, exact.picture), p)!);
      expect(Math.abs(a![1] - b![1])).toBeLessThan(0.01);
      expect(Math.abs(a![0] - d![0])).toBeLessThan(0.01);
      // as a picture of its own it stays a sheet
      expect(ofPanelAlone(exact, 'p1').camera.flat).toBe(true);
    }
  });

  it('is stretched where its ratio is typed', () => {
    const [print] = sheet.prints;
    const c = withPanel(
      withNewPanel(flat(), { corners: print!.corners.map((p) => [...p]) as unknown as NonNullable<Panel['corners']> }),
      'p1',
      {
        size: { ratio: 1.5 },
      },
    );
    expect(c.stance.aspect).toBeCloseTo(1.5 / (print!.widthMm / print!.heightMm), 4);
    const [a, b, , d] = print!.corners.map((p) => toPlane(composeWarp(c, c.picture), p)!);
    expect((b![0] - a![0]) / (d![1] - a![1])).toBeCloseTo(1.5, 3);
  });
});
