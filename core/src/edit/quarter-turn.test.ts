import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  correctionSchema,
  PlumbError,
  solveCorrection,
  withPulledCorners,
  withQuarterTurn,
  withStandingWishes,
  cornersOnPlane,
  type Correction,
  type CorrectionInput,
  type Point,
  type Quad,
} from '../index';

/** A generator that gives the same numbers for the same seed (mulberry32, public domain). */
function seeded(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

/** For some seeds a shim with a place that is held and a line that comes true. */
function shimsOf(seed: number, { width, height }: { readonly width: number; readonly height: number }) {
  const random = seeded(seed + 70_000);
  const by = (px: number): number => px * (2 * random() - 1);
  const at = (x: number, y: number): [number, number] => [x * width + by(8), y * height + by(8)];
  if (random() > 0.4) return [];
  return [
    {
      id: 'shim1',
      at: at(0.5, 0.6),
      width: 220 + by(60),
      height: 220 + by(60),
      crossings: 4 + Math.floor(6 * random()),
      holds: [{ id: 'h1', from: [by(20), by(20)] as [number, number], to: [by(20), by(20)] as [number, number], nail: random() < 0.3 }],
      lines: [{ id: 'l1', kind: random() < 0.5 ? ('level' as const) : ('straight' as const), points: [at(0.45, 0.62), at(0.55, 0.63)] }],
    },
  ];
}

/** A document with everything in use that it can hold, solved as it would be on the bench. */
function randomDocument(seed: number): Correction {
  const random = seeded(seed);
  const between = (low: number, high: number): number => low + (high - low) * random();
  const one = <T>(...choices: readonly T[]): T => choices[Math.floor(random() * choices.length)] as T;
  const chance = (share: number): boolean => random() < share;
  const [width, height] = one([900, 600], [600, 900], [801, 603]) as [number, number];
  const size = { width, height };
  const at = (x: number, y: number): [number, number] => [x * width, y * height];
  const near = (x: number, y: number): [number, number] => at(x + between(-0.04, 0.04), y + between(-0.04, 0.04));
  const kind = (): 'plumb' | 'level' | 'return' | 'eye' => one('plumb', 'plumb', 'level', 'level', 'return', 'eye');
  const line = (id: number) => {
    const k = kind();
    const [x, y] = [between(0.15, 0.85), between(0.15, 0.85)];
    const [dx, dy] =
      k === 'plumb' ? [between(-0.04, 0.04), 0.3] : k === 'return' ? [0.25, between(0.05, 0.15)] : [0.35, between(-0.05, 0.05)];
    return {
      id: `r${id}`,
      kind: k,
      a: at(x - dx, y - dy),
      b: at(x + dx, y + dy),
      statedAngle: chance(0.3) ? between(-4, 4) : 0,
      used: chance(0.85),
    };
  };
  const rect = (): { x: number; y: number; width: number; height: number } => ({
    x: -width * between(0.2, 0.4),
    y: -height * between(0.2, 0.4),
    width: width * between(0.4, 0.6),
    height: height * between(0.4, 0.6),
  });
  const lens: CorrectionInput['lens'] = one<CorrectionInput['lens']>(
    {},
    {
      model: {
        kind: 'brown-conrady',
        fx: 800,
        fy: 800,
        cx: width / 2 + 4,
        cy: height / 2 - 3,
        k1: -0.08,
        k2: 0.01,
        p1: 0.001,
        p2: -0.0005,
      },
      lateral: { red: 1.001, blue: 0.999 },
    },
    { model: { kind: 'radial', cx: width / 2, cy: height / 2, k1: between(-0.04, 0.04) } },
  );
  const edges = chance(0.35)
    ? [
        {
          id: 'ease1',
          side: one('left', 'right', 'top', 'bottom') as 'left',
          at: near(0.5, 0.5),
          amount: between(0.05, 0.2),
          reach: 60,
          room: chance(0.5) ? { width: 120, frame: between(-200, 200) } : null,
        },
      ]
    : [];
  const typed = one<object | null>(null, { ratio: between(0.6, 1.8) }, { width: 3, height: 2, unit: 'm' }, { paper: 'A4' });
  const document = correctionSchema.parse({
    format: 'able-plumb/correction',
    version: 1,
    picture: { name: 'x', ...size },
    camera: {
      focalPx: between(650, 1400),
      focalFrom: one('typed', 'metadata', 'assumed'),
      flat: chance(0.1),
      ...(chance(0.3) ? { centre: near(0.5, 0.5), centreFrom: 'typed' as const } : {}),
    },
    lens,
    references: Array.from({ length: Math.floor(between(0, 5)) }, (_, i) => line(i + 1)),
    panels: chance(0.45)
      ? [
          {
            id: 'p1',
            corners: [near(0.3, 0.3), near(0.7, 0.3), near(0.7, 0.7), near(0.3, 0.7)],
            size: typed as null,
            margins: { top: 3, right: -2, bottom: 5, left: 1 },
            used: true,
          },
        ]
      : [],
    measures: [{ id: 'm1', a: near(0.2, 0.2), b: near(0.6, 0.4) }],
    stance: {
      from: one('hand', 'references', 'panel'),
      may: one('turn-only', 'stand-plumb', 'square-on'),
      front: one('wall', 'wall', 'wall', 'floor', 'ceiling'),
      roll: between(-8, 8),
      tilt: between(-12, 12),
      swing: between(-12, 12),
      aspect: between(0.8, 1.25),
      shear: chance(0.4) ? between(-8, 8) : 0,
      adjust: { roll: between(-3, 3), tilt: between(-3, 3), swing: between(-3, 3) },
      strength: chance(0.5) ? { tilt: between(0, 1.3), swing: between(0, 1.3) } : { tilt: 1, swing: 1 },
      aim: { roll: between(-3, 3), tilt: between(-4, 4), swing: between(-4, 4) },
      keepMiddle: chance(0.2),
      quarterTurns: one(0, 1, 2, 3),
      flipX: chance(0.3),
      flipY: chance(0.3),
    },
    ease: {
      projection: chance(0.35) ? between(0.1, 1) : 0,
      edges,
      rings: [{ id: 'ring1', kind: 'head', centre: near(0.5, 0.5), right: near(0.6, 0.5), top: near(0.5, 0.4) }],
      shims: shimsOf(seed, size),
    },
    crop: {
      edges: one('clear', 'clear', 'keep'),
      ratio: one<'as-taken' | 'free' | number>('as-taken', 'free', 1.5, 0.8),
      around: one('picture', 'lines', 'frame', 'keep', 'panel'),
      ...(chance(0.3) ? { rect: rect() } : {}),
      keep: [{ id: 'k1', x: width * 0.45, y: height * 0.45, width: width * 0.1, height: height * 0.12 }],
    },
    guides: [
      { id: 'g1', axis: 'x', at: 40 },
      { id: 'g2', axis: 'y', at: -70 },
    ],
    output: {
      size: one<NonNullable<NonNullable<CorrectionInput['output']>['size']>>(
        { kind: 'natural' },
        { kind: 'long-edge', px: 700 },
        { kind: 'exact', width: 500, height: 320 },
        { kind: 'print', width: 10, height: 7, unit: 'cm', ppi: 150 },
        { kind: 'no-enlargement' },
      ),
      filter: 'mitchell',
    },
    deliveries: [{ id: 'd1', rect: rect() }, { id: 'd2' }],
  });
  const solved = document.stance.from === 'hand' ? document : solveCorrection(document, size).correction;
  if (document.camera.flat || !chance(0.25)) return withStandingWishes(solved);
  const corners = cornersOnPlane(composeWarp(solved, size), solved);
  return corners
    ? withStandingWishes(
        withPulledCorners(solved, corners.map(([x, y]) => [x * between(0.93, 1.07), y * between(0.93, 1.07)]) as unknown as Quad),
      )
    : solved;
}

/** Documents that can be shown: what cannot has a sentence of its own, turned or not. */
function shown(first: number, count: number): { readonly seed: number; readonly document: Correction }[] {
  const all: { seed: number; document: Correction }[] = [];
  for (let seed = first; all.length < count; seed += 1) {
    try {
      const document = randomDocument(seed);
      composeWarp(document, document.picture);
      all.push({ seed, document });
    } catch (error) {
      if (!(error instanceof PlumbError)) throw error;
    }
  }
  return all;
}

/** The largest number by which two documents differ, and whether everything else is the same. */
function difference(a: unknown, b: unknown, path = ''): { readonly most: number; readonly where: string } {
  if (typeof a === 'number' && typeof b === 'number') return { most: Math.abs(a - b), where: path };
  if (typeof a !== 'object' || a === null || typeof b !== 'object' || b === null) return { most: a === b ? 0 : Infinity, where: path };
  return [...new Set([...Object.keys(a), ...Object.keys(b)])]
    .map((key) => difference((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key], `${path}.${key}`))
    .reduce((x, y) => (y.most > x.most ? y : x), { most: 0, where: '' });
}

/** Whether two outlines have the same corners, but for quarter turns clockwise. */
function sameOutline(before: readonly Point[], after: readonly Point[], turns: number): boolean {
  const turned = before.map(([x, y]): Point => (turns === 1 ? [-y, x] : turns === 2 ? [-x, -y] : [y, -x]));
  const held = (p: Point): boolean => after.some((q) => Math.hypot(p[0] - q[0], p[1] - q[1]) < 1e-6);
  return before.length === after.length && turned.every(held);
}

describe('a quarter turn', () => {
  const documents = shown(1000, 300);

  it('of any document gives the turned result, to a millionth of a pixel where the trim is sharp', () => {
    const faults: string[] = [];
    for (const { seed, document } of documents) {
      const before = composeWarp(document, document.picture);
      for (const turns of [1, 2, 3]) {
        const turned = withQuarterTurn(document, turns);
        const after = composeWarp(turned, turned.picture);
        const { width: w, height: h } = before.outputSize;
        const size = turns === 2 ? [w, h] : [h, w];
        let most = Math.abs(after.outputSize.width - size[0]!) + Math.abs(after.outputSize.height - size[1]!);
        for (let i = 0; i <= 4; i += 1)
          for (let j = 0; j <= 4; j += 1) {
            const [x, y] = [(w * i) / 4, (h * j) / 4];
            const there: Point = turns === 1 ? [h - y, x] : turns === 2 ? [w - x, h - y] : [y, w - x];
            const [p, q] = [before.toPicture(x, y), after.toPicture(...there)];
            if (p && q) most = Math.max(most, Math.hypot(p[0] - q[0], p[1] - q[1]));
            else if (p !== q) most = Infinity;
          }
        // where the best trim is flat, inside bent sides or around lines, it is found to a thousandth of a pixel; a side whose flatness lies
        // on the limit may be divided once more or less, and is then the same curve to that limit of a hundredth
        const { edges, rect: byHand, around } = document.crop;
        const flat = edges === 'clear' && !byHand && (before.ease !== null || !before.lens.straight || around === 'lines');
        if (!(most < (flat ? (sameOutline(before.outline, after.outline, turns) ? 1e-3 : 1e-2) : 1e-6)))
          faults.push(`seed ${seed}, ${turns}: ${most}`);
      }
    }
    expect(faults).toEqual([]);
  });

  it('four times, or once there and back, gives back the document', () => {
    const faults: string[] = [];
    // beyond straight up or down one attitude has two names
    const named = documents.filter(({ document: { stance } }) => Math.abs(stance.tilt + stance.adjust.tilt) <= 90);
    expect(named.length).toBeGreaterThan(250);
    for (const { seed, document } of named) {
      let four = document;
      for (let i = 0; i < 4; i += 1) four = withQuarterTurn(four, 1);
      for (const again of [four, withQuarterTurn(withQuarterTurn(document, 1), -1)]) {
        const { most, where } = difference(document, again);
        if (!(most < 1e-6)) faults.push(`seed ${seed}: ${where} ${most}`);
      }
    }
    expect(faults).toEqual([]);
  });
});
