import { Worker, type MessagePort as Transferred } from 'node:worker_threads';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { composeWarp, newCorrection, parseCorrection, type Correction, type ExportFormat } from '@able-plumb/core';
import { arrivingPixels, leadExport, readPictureInfo, readPixels } from '@able-plumb/codecs';
import { useNodeCodecs } from '@able-plumb/codecs/node';
import { dice } from '../../core/tools/random-scenes';

const SIZE = { width: 400, height: 1300 };
let worker: URL;
const files: Record<string, Uint8Array> = {};

beforeAll(async () => {
  const { bundleCli } = (await import('../../scripts/bundle-cli.mjs' as string)) as { bundleCli: () => Promise<string> };
  worker = new URL('render-worker.mjs', `file://${await bundleCli()}`);
  useNodeCodecs();
  const { uniform } = dice(9);
  const data = Uint8Array.from({ length: SIZE.width * SIZE.height * 3 }, (_, k) => 128 + 90 * Math.sin(k / 4000) + 30 * uniform());
  const picture = () => sharp(data, { raw: { ...SIZE, channels: 3 } });
  files['halved.jpg'] = await picture().jpeg({ quality: 90 }).toBuffer();
  files['strips.tif'] = await picture().tiff({ compression: 'deflate', predictor: 'horizontal' }).toBuffer();
  files['tiles.tif'] = await picture()
    .toColourspace('rgb16')
    .tiff({ compression: 'lzw', tile: true, tileWidth: 128, tileHeight: 64 })
    .toBuffer();
  const hurt = Uint8Array.from(files['halved.jpg']);
  // in the middle of its codes: other decoders go on, with a warning
  hurt.fill(0x55, Math.floor(hurt.length * 0.6), Math.floor(hurt.length * 0.6) + 40);
  files['hurt.jpg'] = hurt;
});

/** A stance, lens and size of some kind. */
function someCorrection(seed: number): Correction {
  const { uniform } = dice(seed);
  const within = (most: number): number => most * (2 * uniform() - 1);
  const base = newCorrection({ name: 'a', ...SIZE, focal35: 28 });
  return parseCorrection({
    ...base,
    stance: { ...base.stance, adjust: { roll: within(6), tilt: within(20), swing: within(12) }, flipX: uniform() < 0.2 },
    lens: { ...base.lens, model: { kind: 'radial', cx: 200, cy: 650, k1: within(0.1) }, lateral: { red: 1 + within(0.002), blue: 1 } },
    crop: { ...base.crop, edges: uniform() < 0.5 ? 'keep' : 'clear' },
    output: { ...base.output, filter: 'bicubic', size: uniform() < 0.3 ? { kind: 'long-edge', px: 700 } : { kind: 'natural' } },
  });
}

/** An export's bytes, and how many rows of its source lay in memory. */
async function exported(name: string, correction: Correction, format: ExportFormat, wholeBytes: number, threads: number) {
  const bytes = files[name] as Uint8Array;
  const info = await readPictureInfo(bytes, name);
  const arriving = arrivingPixels(bytes, name, info);
  if (!arriving) throw new Error('it does not arrive by rows');
  let rows = 0;
  const source = { ...arriving, into: (held: number) => arriving.into((rows = held)) };
  const workers = Array.from({ length: threads }, () => new Worker(worker));
  const helpers = workers.map((one) => {
    const { port1, port2 } = new MessageChannel();
    one.postMessage(port2, [port2 as unknown as Transferred]);
    return port1;
  });
  const parts: Uint8Array[] = [];
  const { crop } = composeWarp(correction, correction.picture);
  const put = (part: Uint8Array): void => void parts.push(part.slice());
  const asked = {
    source,
    metadata: info.metadata,
    correction,
    crop,
    format,
    notes: { kept: 'none' as const, ppi: 0, colour: correction.output.colour, sharpen: correction.output.sharpen },
    helpers,
    put,
    wholeBytes,
  };
  await leadExport(asked);
  for (const helper of helpers) helper.close();
  await Promise.all(workers.map((one) => one.terminate()));
  return { file: Buffer.concat(parts), rows };
}

describe('a source that lies in memory as a moving window', () => {
  it('gives the same file as one that lies there whole, whoever draws it: JPEG, strips, tiles', async () => {
    let [windows, all] = [0, 0];
    for (let seed = 1; seed <= 6; seed += 1) {
      const name = ['halved.jpg', 'strips.tif', 'tiles.tif'][seed % 3] as string;
      const format: ExportFormat = seed % 2 ? { kind: 'jpeg', quality: 90, chroma: '4:4:4' } : { kind: 'png', bits: 8 };
      const correction = someCorrection(seed);
      const whole = await exported(name, correction, format, Infinity, 0);
      expect(whole.rows).toBe(SIZE.height);
      for (const threads of [0, 2]) {
        const { file, rows } = await exported(name, correction, format, 0, threads);
        expect(file.equals(whole.file), `seed ${seed}, ${threads} helpers`).toBe(true);
        all += 1;
        if (rows < SIZE.height) windows += 1;
      }
    }
    expect(windows / all).toBeGreaterThan(0.5);
  });

  it('goes on where rows cannot be read on, by the decoder that can', async () => {
    const correction = newCorrection({ name: 'a', ...SIZE, focal35: 28 });
    const format = { kind: 'png', bits: 8 } as const;
    const { file, rows } = await exported('hurt.jpg', correction, format, 0, 0);
    expect(rows).toBeLessThan(SIZE.height);
    const bytes = files['hurt.jpg'] as Uint8Array;
    const info = await readPictureInfo(bytes, 'hurt.jpg');
    const { data } = await readPixels(bytes, 'hurt.jpg', info);
    const drawn = await sharp(file).raw().toBuffer();
    expect(drawn.length).toBe(data.length);
    const row = 3 * SIZE.width;
    const differing = Array.from({ length: SIZE.height }, (_, y) => y).filter((y) =>
      data.subarray(y * row, (y + 1) * row).some((v, k) => Math.abs(v - (drawn[y * row + k] as number)) > 3),
    );
    // what is damaged itself is rubbish of its own kind: a row of blocks
    expect(differing.length).toBeLessThanOrEqual(16);
  });
});
