import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import {
  checkPage,
  composeWarp,
  newCorrection,
  newReference,
  parseCorrection,
  readingsOf,
  toPlane,
  withMeasure,
  withNewPanel,
  withReferences,
  type Correction,
  type Point,
  type Readings,
} from '../index';

interface Truth {
  readonly width: number;
  readonly height: number;
  readonly focal35: number;
  readonly stance: { readonly roll: number; readonly tilt: number; readonly swing: number };
  readonly edges: readonly { readonly kind: string; readonly a: Point; readonly b: Point }[];
  readonly panels: readonly { readonly corners: readonly [Point, Point, Point, Point] }[];
}
const truthOf = (name: string): Truth =>
  JSON.parse(readFileSync(new URL(`../../../demo/job/${name}.truth.json`, import.meta.url), 'utf8')) as Truth;
const opened = ({ width, height, focal35 }: Truth): Correction => newCorrection({ name: 'picture', width, height, focal35 });
const read = (c: Correction): Readings => readingsOf(c, composeWarp(c, c.picture));
const drawn = (c: Correction, edges: Truth['edges']): Correction =>
  edges.reduce((all, { a, b }) => withReferences(all, [...all.references, newReference(all, a, b)]), c);

describe('readings', () => {
  it('rise and cross are those of a shifted lens: focal length times the tangent of what was looked up and to the right', () => {
    const base = newCorrection({ name: 'hall', width: 6000, height: 4000, focal35: 24 });
    for (const [tilt, swing] of [
      [10, 0],
      [-6, 0],
      [0, 8],
    ] as const) {
      const turned = parseCorrection({ ...base, stance: { ...base.stance, adjust: { roll: 0, tilt, swing } } });
      const middle = toPlane(composeWarp(turned, base.picture), [3000, 2000])!;
      const c = parseCorrection({
        ...turned,
        crop: { ...turned.crop, rect: { x: middle[0] - 500, y: middle[1] - 400, width: 1000, height: 800 } },
      });
      const { rise, cross } = read(c);
      expect(rise).toBeCloseTo(24 * Math.tan((tilt * Math.PI) / 180), 6);
      expect(cross).toBeCloseTo(24 * Math.tan((swing * Math.PI) / 180), 6);
    }
  });

  it('the tower as taken leans on both sides; turned only it still converges, which is no error; stood plumb nothing is left', () => {
    const truth = truthOf('water-tower');
    const plumb = truth.edges.filter((e) => e.kind === 'plumb');
    const taken = parseCorrection({ ...drawn(opened(truth), plumb), stance: { ...opened(truth).stance, from: 'hand' } });
    const leans = read(taken).references.map((r) => r.beforeDeg);
    expect(read(taken).convergenceDeg!).toBeCloseTo(Math.max(...leans) - Math.min(...leans), 1);
    expect(read(taken).convergenceDeg!).toBeGreaterThan(8);

    const turnOnly = drawn(parseCorrection({ ...opened(truth), stance: { ...opened(truth).stance, may: 'turn-only' } }), truth.edges);
    const turned = read(turnOnly);
    expect([turned.attitude.tilt, turned.attitude.swing]).toEqual([0, 0]);
    expect(Math.abs(turned.worst!.offDeg!)).toBeLessThan(0.05);
    const after = turned.references.filter((r) => r.kind === 'plumb').map((r) => r.afterDeg!);
    expect(Math.max(...after) - Math.min(...after)).toBeGreaterThan(8);

    const stood = read(drawn(opened(truth), truth.edges));
    for (const movement of ['roll', 'tilt', 'swing'] as const) expect(stood.attitude[movement]).toBeCloseTo(truth.stance[movement], 2);
    expect(stood.convergenceDeg!).toBeLessThan(0.01);
    expect(Math.abs(stood.heldBackDeg)).toBeLessThan(0.01);
  });

  it('what is held back on purpose is told apart from what is off', () => {
    const truth = truthOf('water-tower');
    const full = drawn(opened(truth), truth.edges);
    const held = read(parseCorrection({ ...full, stance: { ...full.stance, strength: { tilt: 0.8, swing: 0.8 } } }));
    expect(Math.abs(held.worst!.offDeg!)).toBeLessThan(0.01);
    expect(held.aim.tilt).toBeGreaterThan(3);
    // leaned to the side, the middle vertical leans: said as held back, not as an error
    const rolled = read(parseCorrection({ ...full, stance: { ...full.stance, aim: { roll: 1.5, tilt: 0, swing: 0 } } }));
    expect(Math.abs(rolled.heldBackDeg)).toBeCloseTo(1.5, 1);
    expect(Math.abs(rolled.worst!.offDeg!)).toBeLessThan(0.01);
  });

  it('lengths on the plane of a panel whose size is typed, in its unit; none without a size', () => {
    const truth = truthOf('name-plate');
    const [a, b, c, d] = truth.panels[0]!.corners;
    const bare = withMeasure(withNewPanel(opened(truth), { corners: [a, b, c, d] as never }), [...a], [...c]);
    expect(read(bare).measures[0]!.text).toBeNull();
    const sized = (unit: string, width: number, height: number): Readings =>
      read(parseCorrection({ ...bare, panels: [{ ...bare.panels[0], size: { width, height, unit } }] }));
    // the plate is 1200 x 450 mm: its diagonal by Pythagoras
    const diagonal = Math.hypot(1200, 450);
    expect(sized('mm', 1200, 450).measures[0]!.mm!).toBeCloseTo(diagonal, 1);
    expect(sized('m', 1.2, 0.45).measures[0]!.text).toMatch(new RegExp(`^${(diagonal / 1000).toFixed(3)} ±\\s0\\.00\\d m$`));
    expect(sized('in', 1200 / 25.4, 450 / 25.4).measures[0]!.text).toMatch(
      new RegExp(`^${(diagonal / 25.4).toFixed(2)} ±\\s0\\.\\d\\d in$`),
    );
  });

  it('a line that contradicts the others is named, the rest are not', () => {
    const truth = truthOf('pump-hall-front');
    const c = drawn(opened(truth), truth.edges);
    const bad = c.references[0]!;
    const moved = withReferences(
      c,
      c.references.map((r) => (r.id === bad.id ? { ...r, a: [r.a[0] + 60, r.a[1]] as [number, number] } : r)),
    );
    const readings = read(moved);
    expect(readings.references.filter((r) => r.disagrees).map((r) => r.id)).toEqual([bad.id]);
    expect(readings.worst!.id).toBe(bad.id);
    expect(read(c).references.some((r) => r.disagrees)).toBe(false);
  });

  it('fill a page of their own that carries no foreign markup, whatever the picture is called', () => {
    const correction = { ...newCorrection({ name: '<img src=x onerror=alert(1)>&"\'.jpg', width: 600, height: 400, focal35: 28 }) };
    const warp = composeWarp(correction, correction.picture);
    const page = checkPage({
      correction,
      readings: readingsOf(correction, warp),
      outputSize: warp.outputSize,
      before: 'data:image/jpeg;base64,AA',
      after: 'data:image/jpeg;base64,BB" onload="x',
      madeAt: '<script>',
      secondOpinion: '41 other plumb edges agree within 0.10°, 5 do not <b>.',
    });
    expect(page.match(/<img /g)).toHaveLength(2);
    expect(page).not.toContain('<script');
    expect(page).not.toContain('" onload="');
    expect(page).toContain('&lt;img src=x onerror=alert(1)&gt;&amp;&quot;&#39;.jpg');
    expect(page).toContain('No lines were drawn.');
    expect(page).toContain('<dt>Second opinion</dt><dd>41 other plumb edges agree within 0.10°, 5 do not &lt;b&gt;.</dd>');
  });
});
