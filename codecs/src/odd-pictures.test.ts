import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { bytesOf } from '../tools/test-pictures';
import { PictureFileError, readPictureInfo, readPixels, readShared } from './index';
import { useNodeCodecs } from './node';

/* Picture files from the tests of other programs (Debian's packages golang-1.19-src with PngSuite, golang-golang-x-image-dev,
   golang-github-disintegration-imaging-dev, gdk-pixbuf-tests), unpacked by the set-up: each opens as a reference decoder (sharp, which is
   libpng, libjpeg, libtiff and libwebp) opens it, or is refused with a sentence. */

const ROOT = fileURLToPath(new URL('../../.cache/odd-pictures/', import.meta.url));

function pictures(ending: RegExp): string[] {
  const files = existsSync(ROOT) ? (readdirSync(ROOT, { recursive: true }) as string[]) : [];
  return files
    .filter((file) => ending.test(file))
    .map((file) => join(ROOT, file))
    .sort();
}

/** The largest difference to the reference, in 8-bit steps; null where the reference gives up. */
async function differenceTo(path: string, pixels: Awaited<ReturnType<typeof readPixels>>): Promise<number | null> {
  const bits = pixels.data instanceof Uint16Array ? 16 : 8;
  const reference = await sharp(path, { failOn: 'error' })
    .autoOrient()
    .toColourspace(bits === 16 ? 'rgb16' : 'srgb')
    .raw({ depth: bits === 16 ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true })
    .catch(() => null);
  if (!reference) return null;
  const { data, info } = reference;
  expect([pixels.width, pixels.height], path).toEqual([info.width, info.height]);
  const theirs = bits === 16 ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data;
  const ours = pixels.channels;
  const colours = ours <= 2 ? 1 : 3;
  let worst = 0;
  for (let k = 0; k < info.width * info.height; k += 1) {
    const alpha = ours === 2 || ours === 4 ? (pixels.data[k * ours + colours] as number) : 1;
    // colour behind full transparency means nothing
    if (alpha === 0) continue;
    for (let c = 0; c < colours; c += 1)
      worst = Math.max(worst, Math.abs((pixels.data[k * ours + c] as number) - (theirs[k * info.channels + c] as number)));
  }
  return bits === 16 ? worst / 257 : worst;
}

async function outcome(path: string): Promise<{ readonly opened: number | null } | { readonly refused: string }> {
  const bytes = new Uint8Array(readFileSync(path));
  const name = relative(ROOT, path).split('/').pop() as string;
  try {
    const info = await readPictureInfo(bytes, name);
    const pixels = await readPixels(bytes, name, info);
    // by rows, where it comes so; decoders of JPEG may differ by a few steps
    const shared = await readShared(bytes, name, info);
    if (info.format !== 'jpeg') expect(bytesOf(shared.data).equals(bytesOf(pixels.data)), path).toBe(true);
    return { opened: await differenceTo(path, pixels) };
  } catch (error) {
    expect(error, path).toBeInstanceOf(PictureFileError);
    expect((error as Error).message, path).toMatch(/^\S+ .+\. .+\.$/);
    return { refused: (error as PictureFileError).code };
  }
}

beforeAll(() => useNodeCodecs());

describe('pictures from the tests of other programs', () => {
  it('all open as the reference opens them, or are refused with a sentence; nothing else is thrown, nothing hangs', async () => {
    const seen = { opened: 0, refused: 0 };
    // a JPEG decoder may differ by a few steps (ITU-T T.83 allows it); all else is exact
    for (const [ending, steps] of [
      [/\.(png|tiff?|webp)$/i, 0],
      [/\.jpe?g$/i, 4],
      [/\.(gif|bmp)$/i, 0],
    ] as const)
      for (const path of pictures(ending)) {
        const result = await outcome(path);
        if ('refused' in result) {
          seen.refused += 1;
          expect(result.refused, path).toMatch(/^(png|jpeg|tiff)-(damaged|kind)$|^(too-large|format-unknown|not-a-picture|empty-picture)$/);
        } else {
          seen.opened += 1;
          expect(result.opened ?? 0, path).toBeLessThanOrEqual(steps);
        }
      }
    expect(seen.opened).toBeGreaterThan(150);
    expect(seen.refused).toBeGreaterThan(100);
  }, 120_000);

  it('open where they are sound: all of PngSuite but low depths with interlace, all TIFFs but fax', async () => {
    for (const path of [...pictures(/pngsuite\/[^/]+\.png$/), ...pictures(/x\/image\/testdata\/[^/]+\.tiff$/)]) {
      const result = await outcome(path);
      if (/basn.*0[124]-?.*i\.png$|ccitt/.test(path)) expect(result, path).toMatchObject({ refused: expect.stringMatching(/-kind$/) });
      else expect(result, path).toMatchObject({ opened: 0 });
    }
  });

  it('come in the right way up, whatever their orientation', async () => {
    const turned = pictures(/orientation_\d\.jpg$/);
    expect(turned.length).toBe(9);
    for (const path of turned) expect(await outcome(path), path).toMatchObject({ opened: expect.toSatisfy((steps: number) => steps <= 4) });
  });
});
