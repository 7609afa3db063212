import { execFile } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';

const root = fileURLToPath(new URL('../..', import.meta.url));
const job = join(root, 'demo/job');
const folder = mkdtempSync(join(tmpdir(), 'plumb-split-'));
const plumb = (...args: readonly string[]): Promise<{ readonly code: number; readonly out: string; readonly err: string }> =>
  new Promise((resolve) => {
    execFile(process.execPath, ['scripts/plumb.mjs', ...args], { cwd: root, maxBuffer: 64e6 }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err }),
    );
  });

interface Split {
  readonly written: number;
  readonly silent: string | null;
  readonly pieces: readonly {
    readonly file: string;
    readonly angle: number;
    readonly width: number;
    readonly height: number;
    readonly correction: unknown;
  }[];
}

describe('plumb split', () => {
  it('writes the demo sheet’s five prints, each as one resampling of the scan, with the scan’s resolution', async () => {
    const truth = JSON.parse(readFileSync(join(job, 'prints-sheet.truth.json'), 'utf8')) as {
      prints: { angleDeg: number; widthMm: number }[];
    };
    const out = join(folder, 'five');
    const done = await plumb('split', join(job, 'prints-sheet.jpg'), '--out', out, '--type', 'png', '--names', 'old {sheet} {number}');
    expect(done.code).toBe(0);
    const { pieces, written } = JSON.parse(done.out) as Split;
    expect(written).toBe(5);
    expect(readdirSync(out).sort()).toEqual([1, 2, 3, 4, 5].map((n) => `old prints-sheet ${n}.png`));
    for (const [i, { angle, width, file }] of pieces.entries()) {
      expect(Math.abs(angle - (truth.prints[i]?.angleDeg ?? NaN))).toBeLessThan(0.02);
      expect(Math.abs((width / 300) * 25.4 - (truth.prints[i]?.widthMm ?? NaN))).toBeLessThan(0.4);
      expect((await sharp(file).metadata()).density).toBe(300);
    }
    // the same correction applied to the scan gives the same file, byte for byte
    const correction = join(folder, 'third.correction.json');
    writeFileSync(correction, JSON.stringify(pieces[2]?.correction));
    const applied = await plumb('apply', correction, join(job, 'prints-sheet.jpg'), '--out', join(folder, 'third.png'));
    expect(applied.code).toBe(0);
    expect(readFileSync(join(folder, 'third.png')).equals(readFileSync(pieces[2]?.file as string))).toBe(true);
    // a second time nothing is written over
    const again = await plumb('split', join(job, 'prints-sheet.jpg'), '--out', out, '--type', 'png', '--names', 'old {sheet} {number}');
    expect([again.code, again.err.includes('exists already')]).toEqual([1, true]);
  });

  it('says why there is nothing, and what wrong use is', async () => {
    const whole = JSON.parse((await plumb('split', join(job, 'filter-gallery.jpg'))).out) as Split;
    expect(whole.pieces).toEqual([]);
    expect(whole.silent).toMatch(/one picture|lid/);
    for (const args of [
      ['--inset', 'wide'],
      ['--names', '{date}'],
      ['--out', folder, '--type', 'gif'],
    ])
      expect((await plumb('split', join(job, 'prints-sheet.jpg'), ...args)).code).toBe(2);
  });
});
