import { describe, expect, it } from 'vitest';
import { attitudeErrors, CASES, focalRanges, lengthErrors, panelAttitudeErrors, panelErrors, scatterOf } from '../../tools/deviation-cases';

/** Not a seed that anything was tuned on. */
const SEED = 2026;
const SCENES = Number(process.env['SCENES'] ?? 200);
const PANELS = 400;

describe('what is stated of how sure a figure is, over random scenes whose truth is known', () => {
  for (const [name, scene] of Object.entries(CASES)) {
    it(`${name}: errors of roll, tilt and swing scatter as their deviations say`, () => {
      const { count, rms, beyondTwo, most } = scatterOf(attitudeErrors(scene, SEED, SCENES));
      expect(count).toBeGreaterThan(SCENES / 2);
      expect(rms).toBeGreaterThan(0.7);
      expect(rms).toBeLessThan(1.4);
      expect(beyondTwo).toBeLessThan(0.07);
      expect(most).toBeLessThan(4.5);
    });
  }

  it('so do computed panel ratios, the focal length known, of metadata, or assumed', () => {
    for (const focal of ['known', 'metadata', 'assumed'] as const) {
      const { rms, beyondTwo, most } = scatterOf(panelErrors(focal, SEED, PANELS));
      expect(rms, focal).toBeGreaterThan(0.7);
      expect(rms, focal).toBeLessThan(1.4);
      expect(beyondTwo, focal).toBeLessThan(0.07);
      expect(most, focal).toBeLessThan(4.5);
    }
  });

  it('so does the attitude that a panel says; with an assumed length one in a thousand lies farther off than four and a half', () => {
    for (const [focal, farthest] of [
      ['known', 4.5],
      ['metadata', 4.5],
      ['assumed', 6],
    ] as const) {
      const { count, rms, beyondTwo, most } = scatterOf(panelAttitudeErrors(focal, SEED, PANELS));
      expect(count, focal).toBeGreaterThan(2 * PANELS);
      expect(rms, focal).toBeGreaterThan(0.7);
      expect(rms, focal).toBeLessThan(1.4);
      expect(beyondTwo, focal).toBeLessThan(0.07);
      expect(most, focal).toBeLessThan(farthest);
    }
  });

  it('so do lengths on the plane of a panel whose size is typed', () => {
    const { count, rms, beyondTwo, most } = scatterOf(lengthErrors(SEED, PANELS));
    expect(count).toBeGreaterThan(PANELS / 2);
    expect(rms).toBeGreaterThan(0.7);
    expect(rms).toBeLessThan(1.4);
    expect(beyondTwo).toBeLessThan(0.07);
    expect(most).toBeLessThan(4.5);
  });

  it('four plumb and four level lines at 20 to 85 mm, nothing known: most tell the length, their range holds the truth, the stance is half as near as with the length known', () => {
    const { told, within, asNear } = focalRanges(SEED, SCENES);
    expect(told).toBeGreaterThan(0.6);
    // 95 in 100, as far as four hundred draws can tell
    expect(within).toBeGreaterThan(0.93);
    expect(asNear).toBeLessThan(2.5);
  });
});
