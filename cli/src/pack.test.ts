import { execFile, execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { newCorrection, type Correction } from '@able-plumb/core';
import { bundleCli } from '../../scripts/bundle-cli.mjs';

const stair = fileURLToPath(new URL('../../demo/job/stair.jpg', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'plumb-pack-'));

beforeAll(async () => {
  const bundle = dirname(await bundleCli());
  execFileSync('npm', ['pack', '--silent', '--pack-destination', folder, bundle], { stdio: 'ignore' });
  const packed = readdirSync(folder).find((name) => name.endsWith('.tgz')) as string;
  writeFileSync(join(folder, 'package.json'), '{ "private": true }');
  execFileSync('npm', ['install', '--offline', '--no-audit', '--no-fund', '--silent', join(folder, packed)], {
    cwd: folder,
    stdio: 'ignore',
  });
}, 60_000);

afterAll(() => rmSync(folder, { recursive: true, force: true }));

const plumb = (...args: readonly string[]): Promise<string> =>
  new Promise((resolve, reject) => {
    execFile(join(folder, 'node_modules/.bin/plumb'), args, { cwd: folder }, (error, out, err) =>
      error ? reject(new Error(err)) : resolve(out),
    );
  });

it('packed and installed in an empty folder it needs nothing else: info, a JPEG, a WebP, a progressive original, colours converted', async () => {
  expect(readdirSync(join(folder, 'node_modules')).filter((name) => !name.startsWith('.'))).toEqual(['able-plumb-cli']);
  expect(JSON.parse(await plumb('info', stair))).toMatchObject({ width: 2000, height: 3000, camera: 'Beck & Garrow Garrow Field 24' });
  const progressive = join(folder, 'progressive.jpg');
  writeFileSync(progressive, await sharp(stair).resize(400).keepMetadata().jpeg({ progressive: true }).toBuffer());
  const base = newCorrection({ name: 'x.jpg', width: 400, height: 600, focal35: null });
  const correction: Correction = {
    ...base,
    stance: { ...base.stance, adjust: { ...base.stance.adjust, roll: 2 } },
    output: { ...base.output, colour: 'display-p3' },
  };
  writeFileSync(join(folder, 'turn.json'), JSON.stringify(correction));
  for (const ending of ['jpg', 'webp', 'tif', 'png']) {
    const out = join(folder, `out.${ending}`);
    expect(JSON.parse(await plumb('apply', 'turn.json', progressive, '--out', out))).toMatchObject({ file: out, kernel: 'simd' });
    const { width, icc } = await sharp(out).metadata();
    expect(width).toBeGreaterThan(350);
    expect(icc?.toString('latin1').replaceAll('\0', '')).toContain('Display P3');
  }
}, 60_000);
