import { execFile } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, writeFileSync, copyFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';

const root = fileURLToPath(new URL('../..', import.meta.url));
const picture = join(root, 'demo/job/reservoir.jpg');
const folder = mkdtempSync(join(tmpdir(), 'plumb-fill-'));
const plumb = (...args: readonly string[]): Promise<{ readonly code: number; readonly out: string; readonly err: string }> =>
  new Promise((resolve) => {
    execFile(process.execPath, ['scripts/plumb.mjs', ...args], { cwd: root, maxBuffer: 64e6 }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err }),
    );
  });
const correction = (name: string, more: object): string => {
  const file = join(folder, name);
  writeFileSync(
    file,
    JSON.stringify({
      format: 'able-plumb/correction',
      version: 1,
      picture: { name: 'reservoir.jpg', width: 3600, height: 2400 },
      stance: { roll: 2.6 },
      output: { size: { kind: 'long-edge', px: 1500 } },
      ...more,
    }),
  );
  return file;
};

describe('plumb with filled edges', () => {
  it('gives the same file every time, on one thread or two, by apply or batch; nothing of the picture differs from the file with kept edges', async () => {
    const filled = correction('filled.json', { crop: { edges: 'fill', around: 'frame' } });
    const kept = correction('kept.json', { crop: { edges: 'keep', around: 'frame' } });
    const files = ['a.png', 'b.png', 'kept.png'].map((name) => join(folder, name));
    const one = await plumb('apply', filled, picture, '--out', files[0]!, '--threads', '1');
    const two = await plumb('apply', filled, picture, '--out', files[1]!, '--threads', '2');
    await plumb('apply', kept, picture, '--out', files[2]!);
    expect([one.code, two.code]).toEqual([0, 0]);
    expect(readFileSync(files[0]!).equals(readFileSync(files[1]!))).toBe(true);
    const [a, b] = await Promise.all([files[0]!, files[2]!].map((file) => sharp(file).ensureAlpha().raw().toBuffer()));
    let [changed, empty, was] = [0, 0, 0];
    for (let k = 0; k < a!.length; k += 4) {
      if (a![k + 3] !== 255) empty += 1;
      if (b![k + 3] === 0) was += 1;
      else if ([0, 1, 2].some((c) => a![k + c] !== b![k + c])) changed += 1;
    }
    expect([changed, empty]).toEqual([0, 0]);
    const said = JSON.parse(one.out) as { filled: number };
    expect(said.filled).toBeCloseTo(was / (a!.length / 4), 3);
    // by batch, as JPEG, with what it is
    mkdirSync(join(folder, 'in'), { recursive: true });
    copyFileSync(picture, join(folder, 'in/reservoir.jpg'));
    const applied = join(folder, 'applied.jpg');
    await plumb('apply', filled, picture, '--out', applied);
    const batch = await plumb(
      'batch',
      filled,
      join(folder, 'in/reservoir.jpg'),
      '--out',
      join(folder, 'out'),
      '--format',
      'jpg',
      '--name',
      '{name}',
    );
    expect(batch.code, batch.err).toBe(0);
    const batched = readFileSync(join(folder, 'out', 'reservoir.jpg'));
    expect(batched.equals(readFileSync(applied))).toBe(true);
    const { xmp } = await sharp(batched).metadata();
    expect(xmp?.toString()).toContain('http://cv.iptc.org/newscodes/digitalsourcetype/compositeCapture');
    expect(xmp?.toString()).toContain(`FilledShare="${said.filled.toFixed(4)}"`);
    // kept edges say nothing of the kind
    expect((await sharp(files[2]!).metadata()).xmp?.toString() ?? '').not.toContain('DigitalSourceType');
  }, 120_000);

  it('says so with no metadata asked for too, and refuses in a sentence what cannot be filled, writing nothing', async () => {
    const bare = join(folder, 'bare.jpg');
    const filled = correction('filled-2.json', { crop: { edges: 'fill', around: 'frame' } });
    await plumb('apply', filled, picture, '--out', bare, '--metadata', 'none');
    expect((await sharp(bare).metadata()).xmp?.toString()).toContain('compositeCapture');
    const huge = correction('huge.json', { crop: { edges: 'fill', rect: { x: -5000, y: -5000, width: 10_000, height: 10_000 } } });
    const refused = await plumb('apply', huge, picture, '--out', join(folder, 'huge.jpg'));
    expect([refused.code, refused.err]).toEqual([1, expect.stringContaining('more than there is to copy from')]);
    expect(existsSync(join(folder, 'huge.jpg'))).toBe(false);
    const none = correction('none.json', {
      crop: {
        edges: 'fill',
        around: 'frame',
        fill: {
          areas: [
            {
              id: 'a',
              kind: 'not',
              points: [
                [-9, -9],
                [4000, 3000],
              ],
            },
          ],
        },
      },
    });
    expect((await plumb('apply', none, picture, '--out', join(folder, 'none.jpg'))).err).toContain('nothing left to copy from');
  }, 120_000);
});
