import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import {
  bowOf,
  composeWarp,
  estimateLateral,
  followEdge,
  halveRaster,
  lensOf,
  newCorrection,
  noLens,
  parseCorrection,
  prepareSource,
  readLensFile,
  renderRows,
  type LensModel,
  type Raster,
  type Rect,
} from '@able-plumb/core';
import sharp from 'sharp';
import { sampleBoards } from '../core/tools/sample-boards';
import {
  demoPicture,
  demoTruth,
  documentOf,
  dragLine,
  expect,
  exportFile,
  onBench,
  openDemoPicture,
  onScreen,
  openStep,
  openPicture,
  pixelsOf,
  test,
} from './support';

type P = readonly [number, number];
const hall = demoTruth('engine-hall');
const edgeNamed = (name: string): { a: P; b: P } => hall.edges.find((e) => e.name === name) as unknown as { a: P; b: P };
const zoom = readFileSync(new URL('../demo/job/lenses/hollin-zoom-18-35.lens.json', import.meta.url));

/** Greatest distance from straight of an edge in an exported file, px: the edge is followed in its pixels, between the images of its ends. */
async function bowInFile(page: Page, file: Buffer, ends: readonly (readonly [P, P])[]): Promise<readonly number[]> {
  const correction = parseCorrection(await documentOf(page));
  const warp = composeWarp(correction, correction.picture);
  const { width, height, data } = await pixelsOf(file);
  expect([width, height]).toEqual([warp.outputSize.width, warp.outputSize.height]);
  const levels: Raster[] = [{ width, height, channels: 3, data: new Uint8Array(data) }];
  while (Math.max(levels.at(-1)!.width, levels.at(-1)!.height) > 640) levels.push(halveRaster(levels.at(-1)!));
  return ends.map(([p, q]) => {
    const [a, b] = [warp.toOutput(...p)!, warp.toOutput(...q)!];
    const edge = followEdge(levels, a, b, 5);
    expect(edge, `the edge from ${a} to ${b}`).not.toBeNull();
    return bowOf(noLens({ width, height }), edge!.points)!;
  });
}

/** Ends a little inside those of the truth file, which touch the frame or other things. */
const inside = ({ a, b }: { a: P; b: P }): readonly [P, P] => {
  const at = (t: number): P => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
  return [at(0.02), at(0.98)];
};

/** Traces known edges by a click at each end, on the original. */
async function traceEdges(page: Page, names: readonly string[]): Promise<void> {
  await page.keyboard.press('t');
  for (const [i, name] of names.entries()) {
    if (i === 1) await page.getByRole('radio', { name: 'original' }).click();
    const at = await onScreen(page, hall.width);
    const [a, b] = inside(edgeNamed(name));
    await page.mouse.click(...at(a));
    await page.mouse.move(...at([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]), { steps: 2 });
    await page.mouse.click(...at(b));
    await expect(page.locator('ap-lens-edges tbody tr')).toHaveCount(i + 1);
  }
  await page.getByRole('radio', { name: 'result' }).click();
}

test('the engine hall’s profile is found by itself, says why, and the exported floor joints are straight', async ({ page }) => {
  await openDemoPicture(page, 'engine-hall.jpg');
  await openStep(page, 'Lens');
  await expect(page.locator('ap-lens-profile')).toContainText('Hollin Zoom 18-35 mm f/4');
  await expect(page.locator('ap-lens-profile')).toContainText('Camera, lens and 18 mm match. Switched on by itself.');
  await expect(page.locator('ap-line-chart .main-svg').first()).toBeVisible();
  const known = ['floor joint 4 m', 'left wall, pier 2, near'].map((name) => inside(edgeNamed(name)));
  const straight = await exportFile(page, 'PNG');
  for (const bow of await bowInFile(page, straight.file, known)) expect(bow).toBeLessThan(1);
  // switched off, the same joint bows as the lens bent it
  await openStep(page, 'Lens');
  await page.getByLabel('on', { exact: true }).uncheck();
  const bent = await exportFile(page, 'PNG');
  expect((await bowInFile(page, bent.file, known.slice(0, 1)))[0]).toBeGreaterThan(8);
  // no profile stays no profile when the picture is opened again
  await openStep(page, 'Lens');
  await page.getByLabel('Lens profile').click();
  await page.getByRole('menuitem', { name: 'No profile' }).click();
  await documentOf(page);
  await page.reload();
  await onBench(page);
  await openStep(page, 'Lens');
  await expect(page.getByLabel('Lens profile')).toHaveText(/no profile/);
});

test('without a profile: eight edges traced straighten unseen ones, are saved, and found by themselves for the second picture', async ({
  page,
}) => {
  await openPicture(page, 'engine-hall.jpg', demoPicture('engine-hall.jpg'));
  await openStep(page, 'Lens');
  await expect(page.locator('ap-lens-profile')).toContainText('No profile for Hollin Zoom 18-35 mm f/4');
  const traced = [
    'floor joint 4 m',
    'left wall, pier 2, near',
    'left wall, pier 2, far',
    'right wall, pier 2, far',
    'crane rail, left',
    'crane rail, right',
    'crane girder, upper',
    'floor joint, middle',
  ];
  await traceEdges(page, traced);
  await expect(page.locator('ap-lens-edges')).toContainText(/Barrel: the corner moves by 1[45678]\d ± \d+ px/);
  const { file } = await exportFile(page, 'PNG');
  // seen and unseen ones, in the file's own pixels
  const bows = await bowInFile(page, file, [inside(edgeNamed('floor joint 4 m')), inside(edgeNamed('right wall, pier 2, near'))]);
  expect(Math.max(...bows)).toBeLessThan(2.5);
  // unseen ones of the truth file, by the lens that was found
  const lens = (await documentOf(page))['lens'] as { model: LensModel };
  const [found, truly] = [lensOf(lens.model, hall), lensOf((hall as unknown as { lens: LensModel }).lens, hall)];
  const out = new Float64Array(2);
  for (const edge of hall.edges.filter((e) => !traced.includes(e.name))) {
    const ideal = (p: P): P => (truly.undistort(p[0], p[1], out), [out[0]!, out[1]!]);
    const [p, q] = [ideal(edge.a), ideal(edge.b)];
    const seen = Array.from({ length: 15 }, (_, i): P => {
      truly.distort(p[0] + ((q[0] - p[0]) * i) / 14, p[1] + ((q[1] - p[1]) * i) / 14, out);
      return [out[0]!, out[1]!];
    });
    expect(bowOf(found, seen)!, edge.name).toBeLessThan(2.5);
  }
  await openStep(page, 'Lens');
  await page.getByRole('button', { name: 'Save as a profile' }).click();
  await expect(page.locator('ap-lens-edges')).toContainText('Saved in Hollin Zoom 18-35 mm f/4.');
  await page.goto('/');
  await page
    .locator('.card input[type=file]')
    .setInputFiles({ name: 'engine-hall-2.jpg', mimeType: 'image/jpeg', buffer: demoPicture('engine-hall.jpg') });
  await page.waitForURL('**/bench/**');
  await expect(page.locator('h1')).toHaveText('engine-hall-2.jpg');
  await onBench(page);
  await openStep(page, 'Lens');
  await expect(page.locator('ap-lens-profile')).toContainText('Camera, lens and 18 mm match. Switched on by itself.');
  const second = await exportFile(page, 'PNG');
  expect((await bowInFile(page, second.file, [inside(edgeNamed('floor joint 4 m'))]))[0]).toBeLessThan(2.5);
});

test('a line drawn along a bent edge says so and becomes a trace by one click; beads by hand without the magnet; one undo each', async ({
  page,
}) => {
  await openPicture(page, 'engine-hall.jpg', demoPicture('engine-hall.jpg'));
  const at = await onScreen(page, hall.width);
  const [a, b] = inside(edgeNamed('floor joint 4 m'));
  await dragLine(page, at(a), at(b));
  await expect(page.locator('ap-references-step')).toContainText(/bows (9|1\d) px: do the lens first/);
  await page.getByRole('button', { name: 'Trace it for the lens instead' }).click();
  await expect(page.locator('ap-lens-edges tbody tr')).toHaveCount(1);
  await expect(page.locator('ap-lens-edges tbody tr')).toContainText(/(9|1\d)\.\d px/);
  await page.keyboard.press('Control+z');
  await openStep(page, 'References');
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(1);
  await page.keyboard.press('Control+z');
  // bead by bead
  await page.keyboard.press('t');
  await page.getByRole('button', { name: 'Magnet' }).click();
  const place = await onScreen(page, hall.width);
  const { a: top, b: foot } = edgeNamed('left wall, pier 2, near');
  for (const t of [0.05, 0.95, 0.5, 0.25])
    await page.mouse.click(...place([top[0] + (foot[0] - top[0]) * t, top[1] + (foot[1] - top[1]) * t]));
  await expect(page.locator('.tag')).toContainText(['bow']);
  await page.keyboard.press('Enter');
  await expect(page.locator('ap-lens-edges tbody tr')).toHaveCount(1);
  // a bead is nudged by keys, and the edge removed
  await page.keyboard.press('e');
  await page.keyboard.press('Shift+ArrowLeft');
  const lens = (await documentOf(page))['lens'] as { edges: { points: P[] }[] };
  expect(lens.edges[0]!.points).toHaveLength(4);
  await page.keyboard.press('Delete');
  await expect(page.locator('ap-lens-edges tbody tr')).toHaveCount(0);
});

test('a profile chosen by hand after the crop: the crop re-fits itself and nothing in the file is empty', async ({ page }) => {
  await page.goto('/lenses');
  await page.locator('header input[type=file]').setInputFiles({ name: 'zoom.lens.json', mimeType: 'application/json', buffer: zoom });
  await expect(page.locator('.list')).toContainText('Hollin Zoom 18-35 mm f/4');
  // what was changed in the cabinet is not replaced by the same file again: both stay
  await page.getByLabel('For cameras').fill('Some other camera');
  await page.getByLabel('For cameras').press('Enter');
  await page.locator('header input[type=file]').setInputFiles({ name: 'zoom.lens.json', mimeType: 'application/json', buffer: zoom });
  await expect(page.locator('.list li')).toHaveCount(2);
  await page.getByRole('button', { name: 'Remove' }).click();
  await page.getByRole('button', { name: 'Remove the profile' }).click();
  await expect(page.locator('.list li')).toHaveCount(1);
  await expect(page.getByLabel('For cameras')).toHaveValue('Some other camera');
  // the same pixels without any metadata: nothing can be found by itself
  const bare = await sharp(demoPicture('engine-hall.jpg')).jpeg({ quality: 92 }).toBuffer();
  await openPicture(page, 'bare.jpg', bare);
  await openStep(page, 'Crop');
  await page.getByRole('radio', { name: '16:9', exact: true }).click();
  const area = (await page.locator('ap-stage .area').boundingBox())!;
  const peg = (await page.locator('.crop rect.peg').first().boundingBox())!;
  // drag the upper side down, so that the crop is one by hand
  await dragLine(page, [peg.x + peg.width / 2, peg.y + peg.height / 2], [peg.x + peg.width / 2, peg.y + peg.height / 2 + 12]);
  expect(area.width).toBeGreaterThan(300);
  const before = (await documentOf(page))['crop'] as { rect: Rect };
  await openStep(page, 'Lens');
  await page.getByLabel('Lens profile').click();
  await page.getByRole('menuitem', { name: /Hollin Zoom/ }).click();
  await expect(page.locator('ap-lens-profile')).toContainText('chosen by hand');
  // the metadata say no focal length; the profile does
  await expect(page.locator('ap-step-string .step', { hasText: 'Lens' })).toContainText('18.0 mm, profile');
  const { file } = await exportFile(page, 'PNG');
  const document = await documentOf(page);
  // what was asked for stays, over the same point of the picture; the re-fit is not written back
  const [was, is] = [before.rect, (document['crop'] as { rect: Rect }).rect];
  expect([is.width, is.height]).toEqual([was.width, was.height]);
  const correction = parseCorrection(document);
  const warp = composeWarp(correction, correction.picture);
  const meta = await sharp(file).metadata();
  expect([meta.width, meta.height]).toEqual([warp.outputSize.width, warp.outputSize.height]);
  for (let i = 0; i <= 200; i += 1)
    for (const [x, y] of [
      [i / 200, 0.5 / meta.height],
      [i / 200, 1 - 0.5 / meta.height],
      [0.5 / meta.width, i / 200],
      [1 - 0.5 / meta.width, i / 200],
    ] as const) {
      const p = warp.toPicture(
        Math.min(meta.width - 0.5, Math.max(0.5, x * meta.width)),
        Math.min(meta.height - 0.5, Math.max(0.5, y * meta.height)),
      );
      expect(p && p[0] >= -1e-6 && p[1] >= -1e-6 && p[0] <= hall.width + 1e-6 && p[1] <= hall.height + 1e-6).toBe(true);
    }
  expect((await bowInFile(page, file, [inside(edgeNamed('floor joint 4 m'))]))[0]).toBeLessThan(1);
});

const INFO = `image_width: 1500
image_height: 1000
camera_name: pole camera
camera_matrix: {rows: 3, cols: 3, data: [520, 0, 752.5, 0, 520, 497.5, 0, 0, 1]}
distortion_model: equidistant
distortion_coefficients: {rows: 1, cols: 4, data: [-0.012, 0.002, 0, 0]}
`;

/** A wall of courses and joints seen through a fisheye: what is straight in reality runs through known picture points. */
async function fisheyeWall(model: LensModel): Promise<Buffer> {
  const size = { width: 1500, height: 1000 };
  const lens = lensOf(model, size);
  const data = Buffer.alloc(size.width * size.height * 3, 40);
  const out = new Float64Array(2);
  for (let j = 0; j < size.height; j += 1)
    for (let i = 0; i < size.width; i += 1) {
      let sum = 0;
      // four by four samples a pixel, so that edges lie where they should
      for (let s = 0; s < 16; s += 1) {
        if (!lens.undistort(i + ((s % 4) + 0.5) / 4, j + (Math.floor(s / 4) + 0.5) / 4, out)) continue;
        const [u, v] = [((out[0]! - 753) / 130) % 2, ((out[1]! - 498) / 130) % 2];
        sum += (Math.floor(u < 0 ? u + 2 : u) + Math.floor(v < 0 ? v + 2 : v)) % 2 === 0 ? 190 : 90;
      }
      data.fill(Math.round(sum / 16) || 40, (j * size.width + i) * 3, (j * size.width + i) * 3 + 3);
    }
  return sharp(data, { raw: { ...size, channels: 3 } })
    .png()
    .toBuffer();
}

test('a fisheye of an imported camera_info file becomes rectilinear; a file that is not understood is refused in a sentence', async ({
  page,
}) => {
  await page.goto('/lenses');
  const files = page.locator('header input[type=file]');
  await files.setInputFiles({
    name: 'odd.yaml',
    mimeType: 'text/yaml',
    buffer: Buffer.from(INFO.replace('equidistant', 'rational_polynomial')),
  });
  await expect(page.getByRole('alert')).toContainText('"rational_polynomial" is not supported');
  await page.getByRole('button', { name: 'Understood' }).click();
  await files.setInputFiles({ name: 'pole.yaml', mimeType: 'text/yaml', buffer: Buffer.from(INFO) });
  await expect(page.locator('.list')).toContainText('pole camera');
  const { model } = (await readLensFile(INFO, 'pole.yaml', 'x')).rows[0]!;
  await openPicture(page, 'wall.png', await fisheyeWall(model));
  await openStep(page, 'Lens');
  await page.getByLabel('Lens profile').click();
  await page.getByRole('menuitem', { name: /pole camera/ }).click();
  const { file } = await exportFile(page, 'PNG');
  // courses of the wall at their ideal heights, as the fisheye shows them
  const lens = lensOf(model, { width: 1500, height: 1000 });
  const out = new Float64Array(2);
  const seen = (x: number, y: number): P => (lens.distort(753 + x, 498 + y, out), [out[0]!, out[1]!]);
  const ends = [-260, -130, 130, 260].map((y): readonly [P, P] => [seen(-455, y), seen(455, y)]);
  for (const bow of await bowInFile(page, file, ends)) expect(bow).toBeLessThan(0.6);
});

test('colour fringes are found from the picture’s edges and are gone from the exported file', async ({ page }) => {
  const size = { width: 1800, height: 1200 };
  const clean = await sharp(demoPicture('engine-hall.jpg')).resize(size.width, size.height).raw().toBuffer();
  // the images of red and blue made smaller and larger, as a lens does it
  const blank = newCorrection({ name: 'x', ...size, focal35: 18 });
  const bent = parseCorrection({ ...blank, lens: { lateral: { red: 1 / 1.0012, blue: 1 / 0.9992 } } });
  const warp = composeWarp(bent, size);
  const source: Raster = { ...size, channels: 3, data: new Uint8Array(clean) };
  const fringed = renderRows(prepareSource(source, warp), warp, bent, 3, 0, size.height);
  const file = await sharp(fringed, { raw: { ...size, channels: 3 } })
    .png()
    .toBuffer();
  await openPicture(page, 'fringes.png', file);
  await openStep(page, 'Lens');
  await page.getByRole('button', { name: 'Find from edges' }).click();
  await expect(page.locator('ap-lens-fringes')).toContainText(/From \d+ places along edges/);
  expect(Math.abs(Number(await page.getByLabel('Red', { exact: true }).inputValue()) - 1.3)).toBeLessThan(0.25);
  expect(Math.abs(Number(await page.getByLabel('Blue', { exact: true }).inputValue()) + 0.87)).toBeLessThan(0.25);
  await expect(page.locator('ap-lens-fringes canvas')).toHaveCount(2);
  const exported = await exportFile(page, 'PNG');
  const { width, height, data } = await pixelsOf(exported.file);
  expect([width, height]).toEqual([size.width, size.height]);
  const left = estimateLateral({ width, height, channels: 3, data: new Uint8Array(data) }, [width / 2, height / 2]).found!;
  expect(Math.abs(left.redPx)).toBeLessThan(0.1);
  expect(Math.abs(left.bluePx)).toBeLessThan(0.1);
});

test('a lens from checkerboards in the cabinet: profile with focal length, saved as OpenCV YAML and read again', async ({ page }) => {
  await page.goto('/lenses');
  const folder = sampleBoards();
  await page
    .locator('ap-board-card input[type=file]')
    .setInputFiles(['left01.jpg', 'left03.jpg', 'left05.jpg', 'left06.jpg', 'left08.jpg', 'left12.jpg'].map((name) => folder + name));
  await expect(page.locator('ap-board-card')).toContainText(/focal length 53\d\.\d ± \d\.\d px, corners 0\.1\d px off/, {
    timeout: 60_000,
  });
  await page.getByLabel('For lenses').fill('Left lens');
  await page.getByLabel('For lenses').press('Enter');
  await page.getByRole('button', { name: 'Save as a file' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'OpenCV calibration (YAML)' }).click(),
  ]);
  const text = readFileSync(await download.path(), 'utf8');
  expect(text.startsWith('%YAML:1.0')).toBe(true);
  const again = await readLensFile(text, 'again.yml', 'x');
  expect(again.frame).toEqual({ width: 640, height: 480 });
  expect(Math.abs((again.rows[0]!.model as { fx: number }).fx / 535.9 - 1)).toBeLessThan(0.01);
  await page.reload();
  await expect(page.getByLabel('For lenses')).toHaveValue('Left lens');
});
