import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import {
  appliedTo,
  composeWarp,
  marksSvg,
  newCorrection,
  newReference,
  parseCorrection,
  readingsCsv,
  readingsOf,
  withLensFromEdges,
  withNewPanel,
  withReferences,
  type Correction,
  type Point,
} from '../index';

const truth = JSON.parse(readFileSync(new URL('../../../demo/job/pump-hall-front.truth.json', import.meta.url), 'utf8')) as {
  edges: { a: Point; b: Point }[];
  panels: { corners: [number, number][] }[];
};
const size = { width: 6000, height: 4000 };

/** The pump hall with lines, a panel, traced edges, a lens, a crop by hand and a guide. */
function full(): Correction {
  const opened = newCorrection({ name: 'hall.jpg', ...size, focal35: 20, sha256: 'a'.repeat(64) });
  const lined = truth.edges.slice(0, 4).reduce((c, { a, b }) => withReferences(c, [...c.references, newReference(c, a, b)]), opened);
  const edges = [
    {
      id: 'e1',
      points: [
        [100, 200],
        [3000, 140],
        [5900, 210],
      ] as [number, number][],
    },
  ];
  const bent = withLensFromEdges({ ...lined, lens: { ...lined.lens, edges } });
  const panelled = withNewPanel(bent, {
    corners: truth.panels[0]!.corners as [[number, number], [number, number], [number, number], [number, number]],
  });
  return parseCorrection({
    ...panelled,
    crop: { ...panelled.crop, edges: 'keep', rect: { x: -2000, y: -1300, width: 3900, height: 2700 } },
    guides: [{ id: 'g1', axis: 'x', at: 400 }],
  });
}

describe('a correction as a file', () => {
  it('is the same for the same picture, and for a smaller copy maps every point to the same place of a smaller file', () => {
    const correction = full();
    const same = appliedTo(parseCorrection(JSON.parse(JSON.stringify(correction))), correction.picture);
    expect(same.factor).toBe(1);
    expect(JSON.stringify(same.correction)).toBe(JSON.stringify(correction));
    const small = appliedTo(correction, { name: 'small.jpg', width: 1500, height: 1000 });
    expect(small.factor).toBe(0.25);
    const [large, less] = [composeWarp(correction, size), composeWarp(small.correction, small.correction.picture)];
    for (const p of [
      [500, 700],
      [3000, 2000],
      [5600, 3500],
      [1200, 3300],
    ] as const) {
      const [a, b] = [large.toOutput(p[0], p[1])!, less.toOutput(p[0] / 4, p[1] / 4)!];
      expect(Math.hypot(a[0] / 4 - b[0], a[1] / 4 - b[1])).toBeLessThan(0.02);
    }
    expect(small.correction.picture.name).toBe('small.jpg');
    expect(readingsOf(small.correction, less).references.map((r) => r.beforeDeg)).toEqual(
      readingsOf(correction, large).references.map((r) => expect.closeTo(r.beforeDeg, 9) as number),
    );
  });

  it('is refused for a picture of other proportions', () => {
    expect(() => appliedTo(full(), { name: 'square.jpg', width: 4000, height: 4000 })).toThrow(/other proportions/);
  });

  it('gives its lines, panel, edges and crop as SVG over the original, and its readings as CSV', () => {
    const correction = full();
    const warp = composeWarp(correction, size);
    const svg = marksSvg(correction, warp);
    expect(svg.match(/<line /g)).toHaveLength(4);
    expect(svg).toContain('viewBox="0 0 6000 4000"');
    expect(svg).toContain('id="edge-1" points="100.00,200.00 3000.00,140.00 5900.00,210.00"');
    // the crop's corners, mapped into the file, are the file's corners
    const outline = /id="crop" points="([^"]+)"/
      .exec(svg)![1]!
      .split(' ')
      .map((p) => p.split(',').map(Number) as [number, number]);
    const corner = warp.toOutput(...outline[0]!)!;
    expect(Math.hypot(...corner)).toBeLessThan(1);
    const rows = readingsCsv(readingsOf(correction, warp)).trimEnd().split('\r\n');
    expect(rows).toHaveLength(7);
    expect(rows[0]).toContain('before_deg,after_deg');
    expect(Number(rows[2]!.split(',')[3])).toBeCloseTo(readingsOf(correction, warp).references[0]!.beforeDeg, 3);
    expect(rows[1]!.startsWith('verdict,')).toBe(true);
    expect(rows[6]!.startsWith('edge,1,')).toBe(true);
    const others = { agree: 41, against: 5, withinDeg: 0.1, offDeg: 2.1234567 };
    const more = readingsCsv(readingsOf(correction, warp), others).trimEnd().split('\r\n');
    expect(more).toHaveLength(8);
    const [head, last] = [more[0]!.split(','), more[7]!.split(',')];
    expect(last).toHaveLength(head.length);
    expect([last[0], last[1], last[2], last[head.indexOf('off_deg')], last[head.indexOf('sure_deg')]]).toEqual([
      'other plumb edges',
      '41',
      '5 do not agree',
      '2.1235',
      '0.1',
    ]);
  });
});
