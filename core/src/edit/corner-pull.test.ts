import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  cornersOnPlane,
  newCorrection,
  planeWarp,
  pulledBy,
  pullHandles,
  withPulledCorners,
  withQuarterTurn,
  withReferences,
  type Correction,
  type LensModel,
  type Quad,
} from '../index';

const size = { width: 3000, height: 2000 };
const base = newCorrection({ name: 'x', ...size, focal35: 24 });
const lens: LensModel = { kind: 'radial', cx: 1500, cy: 1000, k1: -0.06, k2: 0.01 };

describe('pulling the picture’s corners', () => {
  it('puts each exactly where it was pulled and leaves the others, with a lens and quarter turns too', () => {
    for (const start of [base, withQuarterTurn(base, 1), { ...base, lens: { ...base.lens, model: lens } }] as Correction[]) {
      let c = start;
      for (const [handle, by] of [
        ['corner0', [-120, 40]],
        ['corner2', [200, 90]],
        ['side0', [30, -60]],
      ] as const) {
        const before = cornersOnPlane(planeWarp(c, size), c)!;
        const target = pulledBy(
          before,
          pullHandles(before).find((h) => h.id === handle)!,
          by,
          false,
        );
        c = withPulledCorners(c, target);
        const after = cornersOnPlane(planeWarp(c, size), c)!;
        after.forEach((p, i) => expect(Math.hypot(p[0] - target[i]![0], p[1] - target[i]![1])).toBeLessThan(1e-4));
      }
      expect(c.stance.from).toBe('hand');
      expect(composeWarp(c, size).outputSize.width).toBeGreaterThan(100);
    }
  });

  it('moves both sides alike when asked, and a widened top is tilt alone', () => {
    const before = cornersOnPlane(planeWarp(base, size), base)!;
    const target = pulledBy(before, pullHandles(before)[0]!, [-150, 0], true);
    expect(target[1]![0] - before[1]![0]).toBe(150);
    const { stance } = withPulledCorners(base, target);
    expect(stance.tilt).toBeGreaterThan(1);
    expect(Math.abs(stance.swing)).toBeLessThan(1e-6);
    expect(Math.abs(stance.roll)).toBeLessThan(1e-6);
    expect(Math.abs(stance.shear)).toBeLessThan(1e-6);
  });

  it('refuses to fold the picture; lines drawn afterwards take over', () => {
    const before = cornersOnPlane(planeWarp(base, size), base)!;
    expect(() => withPulledCorners(base, pulledBy(before, pullHandles(before)[0]!, [5000, 3000], false))).toThrow(/fold|cannot/);
    const pulled = withPulledCorners(base, pulledBy(before, pullHandles(before)[0]!, [-80, -30], false) as Quad);
    const lined = withReferences(pulled, [{ id: 'r1', kind: 'level', a: [100, 1000], b: [2900, 1000], statedAngle: 0, used: true }]);
    expect(lined.stance).toMatchObject({ from: 'references', roll: 0, tilt: 0, aspect: 1, shear: 0, pull: { scale: 1, shift: [0, 0] } });
  });
});
