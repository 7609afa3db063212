import { execFile, spawn } from 'node:child_process';
import {
  copyFileSync,
  existsSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';

const root = fileURLToPath(new URL('../..', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'plumb-hard-'));
let program = '';

beforeAll(async () => {
  const { bundleCli } = (await import('../../scripts/bundle-cli.mjs' as string)) as { bundleCli: () => Promise<string> };
  program = await bundleCli();
});

interface Outcome {
  readonly code: number;
  readonly out: string;
  readonly err: string;
  readonly ms: number;
}

const run = (args: readonly string[], entry = program): Promise<Outcome> =>
  new Promise((resolve) => {
    const began = performance.now();
    execFile(process.execPath, [entry, ...args], { cwd: root, maxBuffer: 1e8 }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err, ms: performance.now() - began }),
    );
  });

const put = (name: string, value: unknown): string => {
  const file = join(folder, name);
  writeFileSync(file, typeof value === 'string' ? value : JSON.stringify(value));
  return file;
};

const picture = async (name: string, width = 300, height = 200): Promise<string> => {
  const file = join(folder, name);
  await sharp({ create: { width, height, channels: 3, background: '#8899aa' } })
    .png()
    .toFile(file);
  return file;
};

const document = (change: object, size = { width: 300, height: 200 }): object => ({
  format: 'able-plumb/correction',
  version: 1,
  picture: { name: 'x', ...size },
  camera: { focalPx: 300 },
  ...change,
});

const four = (...corners: [number, number][]): object => ({ panels: [{ id: 'p1', corners }], stance: { from: 'panel' } });

/** Corrections that no file can be made of, and what has to be said of each. */
const IMPOSSIBLE: Readonly<Record<string, readonly [object, RegExp]>> = {
  'a crop around a panel where there is none': [{ crop: { around: 'panel' } }, /no panel to crop to/],
  'a lens that folds': [{ lens: { model: { kind: 'radial', cx: 150, cy: 100, k1: -0.9 } } }, /bend the picture back/],
  'a stance beyond what can be shown': [{ stance: { tilt: 80, swing: 80 } }, /cannot be turned this far/],
  'a crop off the picture': [{ crop: { rect: { x: 4000, y: 4000, width: 100, height: 100 } } }, /no place clear of empty edges/],
  'no room for the keep box': [
    { stance: { roll: 40 }, crop: { around: 'keep', keep: [{ id: 'k', x: 0, y: 0, width: 300, height: 200 }] } },
    /holds the keep box/,
  ],
  'margins that leave nothing': [
    {
      ...four([80, 60], [220, 60], [220, 140], [80, 140]),
      crop: { around: 'panel' },
      panels: [
        {
          id: 'p1',
          corners: [
            [80, 60],
            [220, 60],
            [220, 140],
            [80, 140],
          ],
          margins: { left: -60, right: -60 },
        },
      ],
    },
    /margins leave nothing/,
  ],
  'four equal corners': [four([100, 100], [100, 100], [100, 100], [100, 100]), /corners/],
  'four corners in one line': [four([50, 50], [100, 75], [150, 100], [200, 125]), /corners/],
  'three corners in one line': [four([50, 50], [150, 50], [250, 50], [150, 150]), /corners/],
};

describe('corrections that no file can be made of', () => {
  it.each(Object.entries(IMPOSSIBLE))('%s: a sentence and exit 1, at once, whatever the threads', async (name, [change, sentence]) => {
    const source = await picture('source.png');
    const correction = put('impossible.json', document(change));
    for (const threads of ['1', '4']) {
      const out = join(folder, `${name.replaceAll(' ', '-')}-${threads}.png`);
      const { code, err, ms } = await run(['apply', correction, source, '--out', out, '--threads', threads]);
      expect(code, err).toBe(1);
      expect(err).toMatch(sentence);
      expect(err).not.toMatch(/\n\s+at /);
      expect(ms).toBeLessThan(5000);
      expect(existsSync(out)).toBe(false);
    }
    const batch = await run(['batch', correction, source, '--out', join(folder, 'none')]);
    expect(batch.code).toBe(1);
    expect((JSON.parse(batch.out) as { pictures: { error: string }[] }).pictures[0]?.error).toMatch(sentence);
  });

  it('two hundred edges of five hundred points are solved or refused in seconds', async () => {
    const edges = Array.from({ length: 200 }, (_, i) => ({
      id: `e${i}`,
      points: Array.from({ length: 500 }, (_, k) => [
        20 + k * 5,
        10 + i * 9 + 6 * Math.sin(k / 80) + (i % 3 === 0 ? 40 * Math.sin(k / 30) : 0),
      ]),
    }));
    const { code, out, ms } = await run(['solve', put('many.json', document({ lens: { edges } }, { width: 2600, height: 2000 }))]);
    expect(code).toBe(0);
    expect((JSON.parse(out) as { report: { lens: { why?: string; model: object | null } } }).report.lens).toBeTruthy();
    expect(ms).toBeLessThan(15_000);
  });
});

describe('batch', () => {
  it('names files by what each picture is, never over an original, whatever path leads there', async () => {
    const originals = join(folder, 'originals');
    mkdirSync(originals);
    const source = join(originals, 'gallery.png');
    await sharp({ create: { width: 300, height: 200, channels: 3, background: '#335577' } })
      .withExif({ IFD0: {}, IFD2: { DateTimeOriginal: '2026:05:04 10:11:12' } })
      .png()
      .toFile(source);
    const before = readFileSync(source);
    const correction = put('turned.json', document({ stance: { quarterTurns: 1 } }));
    const named = await run(['batch', correction, source, '--out', join(folder, 'named'), '--name', '{name}-{width}x{height}-{date}']);
    expect(named.code, named.err).toBe(0);
    expect(readdirSync(join(folder, 'named'))).toEqual(['gallery-200x300-2026-05-04.png']);
    symlinkSync(originals, join(folder, 'linked'));
    linkSync(source, join(folder, 'hard.png'));
    const forced = await run(['batch', correction, source, '--out', join(folder, 'linked'), '--force']);
    expect(forced.code).toBe(1);
    expect(forced.out).toMatch(/is one of the inputs/);
    const applied = await run(['apply', correction, source, '--out', join(folder, 'linked', 'gallery.png'), '--force']);
    expect([applied.code, /one of the inputs/.test(applied.err)]).toEqual([1, true]);
    expect((await run(['apply', correction, source, '--out', join(folder, 'hard.png'), '--force'])).code).toBe(1);
    expect(readFileSync(source).equals(before)).toBe(true);
  });

  it('tells of a thread that dies for its picture, and does the others; many pictures bring no warning', async () => {
    // the same program, with a worker that ends at one picture
    const copy = join(root, '.cache/cli-that-dies');
    mkdirSync(copy, { recursive: true });
    for (const name of readdirSync(join(program, '..')))
      if (name.endsWith('.mjs')) copyFileSync(join(program, '..', name), join(copy, name));
    renameSync(join(copy, 'batch-worker.mjs'), join(copy, 'real-worker.mjs'));
    writeFileSync(
      join(copy, 'batch-worker.mjs'),
      "import { parentPort } from 'node:worker_threads';\nimport './real-worker.mjs';\nparentPort.on('message', (task) => { if (task.picture.includes('dies')) process.exit(3); });\n",
    );
    const few = Number(process.env['BATCH_PICTURES'] ?? 120);
    const sources = await Promise.all(Array.from({ length: few }, (_, i) => picture(i === 7 ? 'dies.png' : `p${i}.png`, 30, 20)));
    const correction = put('plain.json', document({}, { width: 30, height: 20 }));
    const { code, out, err } = await run(
      ['batch', correction, ...sources, '--out', join(folder, 'many'), '--jobs', '2'],
      join(copy, basename(program)),
    );
    expect(code, err).toBe(0);
    const report = JSON.parse(out) as { written: number; failed: number; pictures: { error?: string }[] };
    expect([report.written, report.failed]).toEqual([few - 1, 1]);
    expect(report.pictures[7]?.error).toMatch(/dies\.png: the thread that worked on it ended/);
    expect(err).not.toMatch(/warning/i);
  });

  it('interrupted, leaves nothing half-written', async () => {
    const big = await picture('big.png', 4000, 3000);
    const out = join(folder, 'interrupted');
    const correction = put('big.json', document({ stance: { roll: 3 } }, { width: 4000, height: 3000 }));
    const child = spawn(
      process.execPath,
      [program, 'batch', correction, ...Array.from({ length: 8 }, () => big), '--out', out, '--name', '{number}', '--format', 'tif'],
      { cwd: root },
    );
    const ended = new Promise<number | null>((done) => child.on('exit', done));
    await new Promise<void>((begun) => child.stderr.on('data', (text: Buffer) => text.toString().includes('written') && begun()));
    child.kill('SIGINT');
    expect(await ended).toBe(130);
    const files = readdirSync(out);
    expect(files.filter((name) => name.includes('.part-'))).toEqual([]);
    for (const name of files) expect((await sharp(join(out, name)).stats()).channels.length).toBeGreaterThan(2);
  });
});
