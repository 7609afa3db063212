import { execFile } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { encode as encodePng } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { lensOf, type LensModel } from '@able-plumb/core';
import { sampleBoards } from '../../core/tools/sample-boards';

const root = fileURLToPath(new URL('../..', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'plumb-'));

interface Outcome {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

const plumb = (...args: readonly string[]): Promise<Outcome> =>
  new Promise((resolve) => {
    execFile(process.execPath, ['scripts/plumb.mjs', ...args], { cwd: root }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err }),
    );
  });

const put = (name: string, value: unknown): string => {
  const file = join(folder, name);
  writeFileSync(file, typeof value === 'string' ? value : JSON.stringify(value));
  return file;
};

/** A picture of the boards' size without a board. */
const plainPicture = (): string => {
  const file = join(folder, 'plain.png');
  writeFileSync(file, encodePng({ width: 640, height: 480, data: new Uint8Array(640 * 480).fill(90), channels: 1, depth: 8 }));
  return file;
};

const truth = JSON.parse(readFileSync(join(root, 'demo/job/reservoir.truth.json'), 'utf8')) as {
  edges: { kind: string; a: [number, number]; b: [number, number] }[];
};
const waterline = truth.edges[0]!;
const reservoir = join(root, 'demo/job/reservoir.jpg');

const correction = {
  format: 'able-plumb/correction',
  version: 1,
  picture: { name: 'reservoir.jpg', width: 3600, height: 2400 },
  references: [{ id: 'r1', kind: 'level', a: waterline.a, b: waterline.b }],
};

describe('plumb', () => {
  it('tells what a picture file says of itself', async () => {
    const { code, out } = await plumb('info', join(root, 'demo/job/water-tower.jpg'));
    expect(code).toBe(0);
    expect(JSON.parse(out)).toMatchObject({
      width: 2400,
      height: 3600,
      orientation: 6,
      bits: 8,
      channels: 3,
      focal35: 24,
      focalPx: 2400,
      lens: 'Hollin 24 mm f/2.8',
      profile: 'sRGB (Tarnbeck survey)',
    });
  });

  it('solves, trims, maps and applies: the waterline of the reservoir comes out level', async () => {
    const solved = await plumb('solve', put('c.json', correction));
    expect(solved.code).toBe(0);
    const document = JSON.parse(solved.out) as {
      stance: { roll: number; from: string };
      report: { references: { slopeBefore: number; slopeAfter: number }[]; undetermined: string[] };
    };
    expect(document.stance.from).toBe('references');
    expect(document.stance.roll).toBeCloseTo(1.48, 2);
    expect(document.report.references[0]!.slopeAfter).toBeCloseTo(0, 4);
    expect(document.report.undetermined).toEqual(['tilt', 'swing']);
    const file = put('solved.json', solved.out);

    const trim = JSON.parse((await plumb('trim', file)).out) as {
      rect: { width: number };
      output: { width: number; height: number };
      kept: number;
    };
    expect(trim.output.width).toBe(Math.floor(trim.rect.width));
    expect(trim.kept).toBeGreaterThan(0.9);

    const points = put('points.json', [waterline.a, waterline.b, [1800, 1200]]);
    const mapped = JSON.parse((await plumb('map', file, '--points', points)).out) as [number, number][];
    expect(mapped[0]![1]).toBeCloseTo(mapped[1]![1], 2);
    const back = JSON.parse((await plumb('map', file, '--points', put('mapped.json', mapped), '--inverse')).out) as [number, number][];
    expect(Math.hypot(back[2]![0] - 1800, back[2]![1] - 1200)).toBeLessThan(1e-3);

    const out = join(folder, 'level.png');
    const applied = await plumb('apply', file, reservoir, '--out', out, '--filter', 'bilinear', '--long-edge', '900');
    expect(applied.code, applied.err).toBe(0);
    expect(JSON.parse(applied.out)).toMatchObject({ width: 900, file: out });
    expect(await sharp(out).metadata()).toMatchObject({ width: 900, format: 'png' });
    // one thread and many give the same file
    const single = join(folder, 'single.png');
    expect(
      (await plumb('apply', file, reservoir, '--out', single, '--filter', 'bilinear', '--long-edge', '900', '--threads', '1')).code,
    ).toBe(0);
    expect(readFileSync(single).equals(readFileSync(out))).toBe(true);

    // also where pixels are drawn while they are being decoded, and whatever binds the bands
    for (const ending of ['jpg', 'tif', 'png']) {
      const bytes = await Promise.all(
        ['1', '2', '3'].map(async (threads) => {
          const made = join(folder, `threads-${threads}.${ending}`);
          const { code, err } = await plumb('apply', file, reservoir, '--out', made, '--threads', threads);
          expect(code, err).toBe(0);
          return readFileSync(made);
        }),
      );
      expect(
        bytes.every((one) => one.equals(bytes[0]!)),
        ending,
      ).toBe(true);
    }

    // in linear light bright detail keeps its brightness
    const light = join(folder, 'light.png');
    expect(
      (await plumb('apply', file, reservoir, '--out', light, '--filter', 'bilinear', '--long-edge', '900', '--light', 'linear')).code,
    ).toBe(0);
    const mean = async (path: string): Promise<number> => (await sharp(path).stats()).channels[0]!.mean;
    expect((await mean(light)) - (await mean(out))).toBeGreaterThan(0.05);

    const again = await plumb('apply', file, reservoir, '--out', out);
    expect([again.code, again.err]).toEqual([1, expect.stringContaining('exists already')]);
    expect(readdirSync(folder).filter((name) => name.includes('part'))).toEqual([]);
  });

  it('a panel by its edges with a size typed: its length measured, the focal length asked for and told, the file at 1:10 with its density', async () => {
    type P = [number, number];
    const { panels } = JSON.parse(readFileSync(join(root, 'demo/job/name-plate.truth.json'), 'utf8')) as {
      panels: { corners: [P, P, P, P] }[];
    };
    const c = panels[0]!.corners;
    const along = (k: number, t: number): P => [0, 1].map((i) => c[k]![i]! + (c[(k + 1) % 4]![i]! - c[k]![i]!) * t) as P;
    const asked = put('plate.json', {
      format: 'able-plumb/correction',
      version: 1,
      picture: { name: 'name-plate.jpg', width: 3000, height: 2000 },
      camera: { focalFrom: 'references' },
      stance: { from: 'panel' },
      panels: [{ id: 'p1', edges: [2, 0, 3, 1].map((k) => [along(k, 0.2), along(k, 0.7)]), size: { width: 1.2, height: 0.45, unit: 'm' } }],
      measures: [{ id: 'm1', a: c[0], b: c[1] }],
      crop: { around: 'panel' },
      output: { size: { kind: 'scale', oneTo: 10, ppi: 254 } },
    });
    const solved = await plumb('solve', asked);
    expect(solved.code, solved.err).toBe(0);
    const { stance, report } = JSON.parse(solved.out) as {
      stance: { roll: number; tilt: number; swing: number };
      report: { focal: { focalPx: number }; panels: { ratio: number; ratioFrom: string }[]; measures: { mm: number }[] };
    };
    // the camera that rendered it: 38 mm equivalent, 1.5 anticlockwise, 5 up, 33 right
    expect(report.focal.focalPx / ((38 / Math.hypot(36, 24)) * Math.hypot(3000, 2000))).toBeCloseTo(1, 3);
    expect([stance.roll, stance.tilt, stance.swing].map((v) => Math.round(v * 100) / 100)).toEqual([-1.5, 5, 33]);
    expect(report.panels[0]).toMatchObject({ ratioFrom: 'typed' });
    expect(report.measures[0]!.mm).toBeCloseTo(1200, 1);
    const out = join(folder, 'plate.png');
    const applied = await plumb('apply', put('plate-solved.json', solved.out), join(root, 'demo/job/name-plate.jpg'), '--out', out);
    expect(applied.code, applied.err).toBe(0);
    expect(JSON.parse(applied.out)).toMatchObject({ kernel: 'simd' });
    // 120 x 45 mm at 10 px a mm
    expect(await sharp(out).metadata()).toMatchObject({ width: 1200, height: 450, density: 254 });
  });

  it('answers wrong use with 2, failed work with 1 and a sentence', async () => {
    const bad = put('bad.json', { ...correction, stance: { roll: 'x' } });
    const outcomes = await Promise.all([
      plumb(),
      plumb('dance'),
      plumb('info'),
      plumb('map', bad),
      plumb('trim', bad),
      plumb('info', join(folder, 'missing.jpg')),
      plumb('solve', put('no.json', '{')),
    ]);
    expect(outcomes.map(({ code }) => code)).toEqual([2, 2, 2, 2, 1, 1, 1]);
    expect(outcomes[4]!.err).toContain('stance.roll');
    expect(outcomes[5]!.err).toContain('no such file');
    expect(outcomes.every(({ out }) => out === '')).toBe(true);
    const input = await plumb('apply', put('c2.json', correction), reservoir, '--out', reservoir, '--force');
    expect([input.code, input.err]).toEqual([1, expect.stringContaining('never overwritten')]);
  });

  it('solves the lens from traced edges, then the stance through it; each edge says its bow before and after', async () => {
    const hall = JSON.parse(readFileSync(join(root, 'demo/job/engine-hall.truth.json'), 'utf8')) as {
      width: number;
      height: number;
      lens: LensModel;
      edges: { a: [number, number]; b: [number, number] }[];
    };
    const lens = lensOf(hall.lens, hall);
    const out = new Float64Array(2);
    const at = ([x, y]: readonly [number, number], way: 'distort' | 'undistort'): [number, number] => {
      lens[way](x, y, out);
      return [out[0]!, out[1]!];
    };
    const long = [...hall.edges].sort(
      (p, q) => Math.hypot(q.a[0] - q.b[0], q.a[1] - q.b[1]) - Math.hypot(p.a[0] - p.b[0], p.a[1] - p.b[1]),
    );
    const edges = long.slice(0, 6).map(({ a, b }, k) => {
      const [p, q] = [at(a, 'undistort'), at(b, 'undistort')];
      const points = Array.from({ length: 9 }, (_, i) => at([p[0] + ((q[0] - p[0]) * i) / 8, p[1] + ((q[1] - p[1]) * i) / 8], 'distort'));
      return { id: `e${k + 1}`, points };
    });
    const document = { format: 'able-plumb/correction', version: 1, picture: { width: hall.width, height: hall.height }, lens: { edges } };
    const { code, out: text } = await plumb('solve', put('edges.json', document));
    expect(code).toBe(0);
    const solved = JSON.parse(text) as {
      lens: { model: { kind: string; k1: number } };
      report: { lens: { cornerSdPx: number }; edges: { bowBefore: number; bowAfter: number }[] };
    };
    expect(solved.lens.model.kind).toBe('radial');
    expect(solved.lens.model.k1).toBeCloseTo(-0.072, 3);
    expect(Math.max(...solved.report.edges.map((e) => e.bowBefore))).toBeGreaterThan(8);
    expect(Math.max(...solved.report.edges.map((e) => e.bowAfter))).toBeLessThan(0.5);
    const nothing = await plumb(
      'solve',
      put('one.json', {
        ...document,
        lens: {
          edges: [
            {
              id: 'e1',
              points: [
                [10, 10],
                [500, 12],
                [900, 11],
              ],
            },
          ],
        },
      }),
    );
    expect(JSON.parse(nothing.out)).toMatchObject({ lens: { model: { kind: 'none' } }, report: { lens: { model: null } } });
  });

  it('calibrates from checkerboards, leaves out pictures without a board, and says when there are too few (OpenCV’s sample pictures)', async () => {
    const boards = ['left02', 'left04', 'left07', 'left13'].map((name) => `${sampleBoards()}${name}.jpg`);
    const { code, out, err } = await plumb('calibrate', ...boards, plainPicture(), '--board', '9x6', '--name', 'Left camera');
    expect(code).toBe(0);
    const { profile, errorPx, pictures, without } = JSON.parse(out) as {
      profile: { name: string; rows: { model: { fx: number } }[] };
      errorPx: number;
      pictures: unknown[];
      without: string[];
    };
    expect(profile.name).toBe('Left camera');
    expect(Math.abs(profile.rows[0]!.model.fx / 535.9 - 1)).toBeLessThan(0.02);
    expect(errorPx).toBeLessThan(0.3);
    expect(pictures).toHaveLength(4);
    expect(without).toHaveLength(1);
    expect(err).toContain('left out');
    expect(await plumb('calibrate', boards[0]!, '--board', '9x6')).toMatchObject({
      code: 1,
      err: expect.stringContaining('found in 1 picture') as string,
    });
    expect((await plumb('calibrate', boards[0]!, '--board', '9by6')).code).toBe(2);
  });

  it('puts one correction on many pictures, in the format asked for; what fails is told and stops nothing', async () => {
    const out = join(folder, 'batch');
    const small = join(folder, 'small.png');
    await sharp(reservoir).resize(900, 600).png().toFile(small);
    const broken = put('broken.jpg', 'no picture');
    const tall = join(root, 'demo/job/water-tower.jpg');
    const args = [
      'batch',
      put('b.json', correction),
      reservoir,
      small,
      broken,
      tall,
      '--out',
      out,
      '--format',
      'tif',
      '--name',
      '{number}-{name}',
    ];
    const first = await plumb(...args, '--long-edge', '300', '--metadata', 'none');
    expect(first.code, first.err).toBe(0);
    const report = JSON.parse(first.out) as { written: number; failed: number; pictures: { file?: string; error?: string }[] };
    expect(report).toMatchObject({ written: 2, failed: 2 });
    expect(readdirSync(out).sort()).toEqual(['001-reservoir.tif', '002-small.tif']);
    expect(report.pictures[2]!.error).toMatch(/not a picture/);
    expect(report.pictures[3]!.error).toMatch(/other proportions/);
    // the smaller copy shows the same, as its positions were scaled
    const [one, other] = await Promise.all(
      ['001-reservoir.tif', '002-small.tif'].map((name) =>
        sharp(join(out, name)).removeAlpha().raw().toBuffer({ resolveWithObject: true }),
      ),
    );
    expect([other!.info.width, other!.info.height]).toEqual([one!.info.width, one!.info.height]);
    let sum = 0;
    for (let k = 0; k < one!.data.length; k += 1) sum += Math.abs((one!.data[k] as number) - (other!.data[k] as number));
    expect(sum / one!.data.length).toBeLessThan(6);
    // again: nothing is overwritten
    const again = JSON.parse((await plumb(...args)).out) as typeof report;
    expect(again).toMatchObject({ written: 0, failed: 4 });
    expect(again.pictures[0]!.error).toMatch(/exists already/);
    expect((await plumb(...args.slice(0, -1), '{nom}')).code).toBe(2);
  });
});
