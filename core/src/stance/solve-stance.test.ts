import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  correctionSchema,
  newCorrection,
  newReference,
  readingsOf,
  requireSoundStance,
  solveCorrection,
  withQuarterTurn,
  withReferences,
  withRollAdjust,
  type Correction,
  type Point,
} from '../index';

interface Truth {
  readonly picture: string;
  readonly width: number;
  readonly height: number;
  readonly focal35: number;
  readonly lens: { readonly kind: string };
  readonly stance: { readonly roll: number; readonly tilt: number; readonly swing: number };
  readonly edges: readonly {
    readonly name: string;
    readonly kind: 'plumb' | 'level' | 'return' | 'eye';
    readonly a: Point;
    readonly b: Point;
  }[];
}

const truthOf = (name: string): Truth =>
  JSON.parse(readFileSync(new URL(`../../../demo/job/${name}.truth.json`, import.meta.url), 'utf8')) as Truth;

const opened = (t: Truth): Correction =>
  correctionSchema.parse({
    ...newCorrection({ name: t.picture, width: t.width, height: t.height, focal35: t.focal35 }),
    lens: { model: t.lens },
  });

const withEdges = (t: Truth, edges: Truth['edges']): Correction => {
  const correction = opened(t);
  return withReferences(
    correction,
    edges.map((e, i) => ({
      id: `r${i + 1}`,
      kind: e.kind,
      a: [...e.a] as [number, number],
      b: [...e.b] as [number, number],
      statedAngle: 0,
      used: true,
    })),
  );
};

describe('references to stance', () => {
  it('finds the stance of every demo picture from its known edges to 0.001 degrees (the cameras that rendered them)', () => {
    for (const name of ['reservoir', 'pump-hall-front', 'water-tower', 'engine-hall', 'filter-gallery', 'name-plate', 'stair']) {
      const t = truthOf(name);
      const { stance } = withEdges(t, t.edges);
      for (const movement of ['roll', 'tilt', 'swing'] as const)
        expect(Math.abs(stance[movement] - t.stance[movement]), `${name} ${movement}`).toBeLessThan(0.001);
    }
  });

  it('reads and undoes slips of 1.17, 1.5 and 2.79 degrees, either way, to 0.01 degrees (common practice, no published source, for the values)', () => {
    const blank = newCorrection({ name: 'x', width: 6000, height: 4000, focal35: 28 });
    for (const slip of [1.17, 1.5, 2.79, -1.17, -1.5, -2.79]) {
      const rise = Math.tan((slip * Math.PI) / 180);
      const level = newReference(blank, [500, 2000 + 2500 * rise], [5500, 2000 - 2500 * rise]);
      const plumb = newReference(blank, [3000 - 1500 * rise, 500], [3000 + 1500 * rise, 3500]);
      for (const reference of [level, plumb]) {
        expect(reference.kind).toBe(reference === level ? 'level' : 'plumb');
        const solved = withReferences(blank, [reference]);
        expect(Math.abs(solved.stance.roll - slip)).toBeLessThan(0.01);
        expect([solved.stance.tilt, solved.stance.swing]).toEqual([0, 0]);
        const reading = readingsOf(solved, composeWarp(solved, solved.picture)).references[0]!;
        expect(Math.abs(reading.beforeDeg - slip)).toBeLessThan(0.01);
        expect(Math.abs(reading.offDeg!)).toBeLessThan(0.01);
      }
    }
  });

  it('solves by the table: one line turns, two plumb stand, an eye line gives roll and tilt; what a line may do narrows it', () => {
    const t = truthOf('pump-hall-front');
    const plumbs = t.edges.filter((e) => e.kind === 'plumb');
    const levels = t.edges.filter((e) => e.kind === 'level');
    const determined = (edges: Truth['edges'], may?: 'turn-only' | 'stand-plumb'): readonly string[] => {
      const c = withEdges(t, edges);
      return solveCorrection(may ? { ...c, stance: { ...c.stance, may } } : c, c.picture).solution!.determined;
    };
    expect(determined([levels[0]!])).toEqual(['roll']);
    expect(determined(plumbs.slice(0, 2))).toEqual(['roll', 'tilt']);
    expect(determined(levels.slice(0, 2))).toEqual(['roll', 'swing']);
    expect(determined([plumbs[0]!, plumbs[3]!, levels[0]!])).toEqual(['roll', 'tilt', 'swing']);
    expect(determined([plumbs[0]!, plumbs[3]!, levels[0]!], 'stand-plumb')).toEqual(['roll', 'tilt']);
    expect(determined([plumbs[0]!, plumbs[3]!, levels[0]!], 'turn-only')).toEqual(['roll']);
    // tilt 13 alone makes the horizon lie f tan 13 below the middle: an eye line there says so
    const f = (t.focal35 / Math.hypot(36, 24)) * Math.hypot(t.width, t.height);
    const y = 2000 + f * Math.tan((13 * Math.PI) / 180);
    const eye = withEdges(t, [{ name: 'sea', kind: 'eye', a: [300, y], b: [5700, y] }]);
    expect(eye.stance.tilt).toBeCloseTo(13, 3);
  });

  it('never throws on contradictory lines, and sets the rest right when one is set aside', () => {
    const t = truthOf('pump-hall-front');
    const wrong = { name: 'wrong', kind: 'plumb' as const, a: [900, 700] as Point, b: [2500, 3200] as Point };
    const c = withEdges(t, [...t.edges.slice(0, 4), wrong]);
    expect(Number.isFinite(c.stance.roll)).toBe(true);
    const aside = withReferences(
      c,
      c.references.map((r) => (r.id === 'r5' ? { ...r, used: false } : r)),
    );
    expect(Math.abs(aside.stance.tilt - t.stance.tilt)).toBeLessThan(0.01);
  });

  it('finds the same camera when the floor is the front, and shows the floor square-on (the engine hall that was rendered)', () => {
    const t = truthOf('engine-hall');
    const joints = t.edges
      .filter((e) => e.name.startsWith('floor joint'))
      .map((e) => ({ ...e, kind: e.kind === 'return' ? ('plumb' as const) : e.kind }));
    const blank = opened(t);
    const c = withReferences(
      { ...blank, stance: { ...blank.stance, front: 'floor' } },
      joints.map((e, i) => ({
        id: `r${i + 1}`,
        kind: e.kind,
        a: [...e.a] as [number, number],
        b: [...e.b] as [number, number],
        statedAngle: 0,
        used: true,
      })),
    );
    for (const movement of ['roll', 'tilt', 'swing'] as const)
      expect(Math.abs(c.stance[movement] - t.stance[movement]), movement).toBeLessThan(0.01);
    const readings = readingsOf(
      c,
      composeWarp({ ...c, crop: { ...c.crop, edges: 'keep' }, output: { ...c.output, size: { kind: 'long-edge', px: 2000 } } }, c.picture),
    );
    for (const r of readings.references) expect(Math.abs(r.offDeg ?? 0)).toBeLessThan(0.01);
    expect(readings.references.filter((r) => r.afterDeg !== null).length).toBeGreaterThan(2);
  });

  it('a line without length, and a panel that is none, are refused by name before a file would be wrong', () => {
    const t = truthOf('reservoir');
    const lined = withEdges(t, [t.edges[0]!]);
    expect(() => requireSoundStance(lined)).not.toThrow();
    const point = { ...lined.references[0]!, b: lined.references[0]!.a };
    expect(() => requireSoundStance({ ...lined, references: [point] })).toThrow('Line 1 has no length');
    expect(() => requireSoundStance({ ...lined, references: [{ ...point, used: false }] })).not.toThrow();
    const corners = [0, 1, 2, 3].map((k) => [100 + 200 * k, 100 + 100 * k]);
    for (const from of ['panel', 'references'] as const) {
      const flat = correctionSchema.parse({ ...opened(t), stance: { from }, panels: [{ id: 'p1', corners }] });
      expect(() => requireSoundStance(flat)).toThrow('cannot be a rectangle');
    }
  });

  it('a quarter turn turns what is seen, with lines and by hand', () => {
    const t = truthOf('reservoir');
    const lined = withEdges(t, [t.edges[0]!]);
    const turned = withQuarterTurn(lined, 1);
    expect(turned.references[0]!.kind).toBe('plumb');
    expect(turned.stance.roll).toBeCloseTo(lined.stance.roll, 5);
    const hand = withRollAdjust(opened(t), 3);
    const handTurned = withQuarterTurn(hand, 1);
    const [a, b] = [composeWarp(hand, hand.picture), composeWarp(handTurned, hand.picture)];
    expect([b.outputSize.width, b.outputSize.height]).toEqual([a.outputSize.height, a.outputSize.width]);
    // the same picture point comes out turned clockwise
    const p = a.toOutput(1000, 700)!;
    const q = b.toOutput(1000, 700)!;
    expect(q[0]).toBeCloseTo(a.outputSize.height - p[1], 3);
    expect(q[1]).toBeCloseTo(p[0], 3);
  });
});
