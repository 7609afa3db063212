import '../../testing/ground';
import { describe, expect, it } from 'vitest';
import { newCorrection, withReferences, withStrength, type Correction, type Point, type Reference } from '@able-plumb/core';
import { judge } from './sheet-model';

const bare = newCorrection({ name: 'tower', width: 3000, height: 2000, focal35: 28 });
let next = 0;
const line = (kind: Reference['kind'], a: Point, b: Point, change: Partial<Reference> = {}): Reference => {
  next += 1;
  return { id: `r${next}`, kind, a: [a[0], a[1]], b: [b[0], b[1]], statedAngle: 0, used: true, ...change };
};
/** Verticals that meet far above, as when the camera looked up. */
const upright = (x: number, off = 0): Reference => line('plumb', [1500 + (x - 1500) * 0.9 + off, 300], [x, 1700]);
const plumbs = [600, 1000, 1400, 2000, 2500].map((x) => upright(x));
const drawn = (...references: readonly Reference[]): Correction => withReferences(bare, references);

describe('a cell of the contact sheet', () => {
  it('says of each picture what is known of how true it is, as the bench does, and which need a look', () => {
    expect(judge(bare)).toMatchObject({ line: 'untouched', state: 'untouched' });
    const waiting = line('return', [400, 400], [1400, 1300], { waits: true });
    expect(judge(drawn(waiting))).toMatchObject({ line: 'a line waits to be told', state: 'attention' });
    expect(judge(drawn(upright(600)))).toMatchObject({ state: 'set', line: expect.stringMatching(/^as drawn ± \d.*°, was \d/) as string });
    expect(judge(drawn(...plumbs))).toMatchObject({ state: 'set', line: expect.stringMatching(/^true within 0\.\d+°, was \d/) as string });
    const held = withStrength(drawn(...plumbs), 'tilt', 0.5, true);
    expect(judge(held)).toMatchObject({ state: 'set', line: expect.stringMatching(/^held back \d/) as string });
    const off = judge(drawn(...plumbs, upright(1700, 90)));
    expect(off).toMatchObject({ state: 'attention', line: expect.stringMatching(/^off by \d/) as string });
    expect(off.afterDeg!).toBeGreaterThan(1);
  });
});
