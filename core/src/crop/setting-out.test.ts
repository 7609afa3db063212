import { describe, expect, it } from 'vitest';
import { SETTING_OUT, settingOutLines, type SettingOutName } from '../index';

describe('setting-out lines', () => {
  it('lie within the crop in every attitude, and all attitudes of the spiral differ', () => {
    for (const name of Object.keys(SETTING_OUT) as SettingOutName[]) {
      const seen = new Set<string>();
      for (let attitude = 0; attitude < SETTING_OUT[name].attitudes; attitude += 1) {
        const lines = settingOutLines(name, 5, attitude);
        for (const [x, y] of lines.flat())
          expect(x >= -1e-9 && x <= 1 + 1e-9 && y >= -1e-9 && y <= 1 + 1e-9, `${name} ${attitude}`).toBe(true);
        seen.add(JSON.stringify(lines));
      }
      expect(seen.size).toBe(SETTING_OUT[name].attitudes);
    }
  });

  it('divide as they say: n parts at multiples of 1/n, the golden section at 0.382 and 0.618', () => {
    const xs = (name: SettingOutName, parts = 3): number[] =>
      settingOutLines(name, parts, 0)
        .filter(([a, b]) => a![0] === b![0])
        .map(([a]) => a![0]);
    expect(xs('thirds')).toEqual([1 / 3, 2 / 3]);
    expect(xs('parts', 5)).toEqual([0.2, 0.4, 0.6, 0.8]);
    const golden = xs('golden');
    expect(golden[0]! / golden[1]!).toBeCloseTo(golden[1]! / 1, 12);
  });

  it('the spiral runs unbroken from a corner to the pole, where the diagonals of two golden rectangles cross', () => {
    const [spiral] = settingOutLines('spiral', 0, 0);
    for (const [i, p] of spiral!.entries())
      if (i > 0) expect(Math.hypot(p[0] - spiral![i - 1]![0], p[1] - spiral![i - 1]![1])).toBeLessThan(0.13);
    expect(spiral![0]).toEqual([0, 1]);
    const phi = (1 + Math.sqrt(5)) / 2;
    // of the whole, y = x / phi; of what the first square leaves, from (1, 1) to (phi, 0)
    const x = (1 + 1 / (phi - 1)) / (1 / phi + 1 / (phi - 1));
    const y = x / phi;
    const end = spiral!.at(-1)!;
    expect(Math.abs(end[0] - x / phi)).toBeLessThan(0.02);
    expect(Math.abs(end[1] - y)).toBeLessThan(0.02);
  });
});
