import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import {
  demoPicture,
  demoTruth,
  documentOf,
  dragLine,
  drawEdges,
  expect,
  exportFile,
  leansInFile,
  onScreen,
  openStep,
  openPicture,
  test,
  pick,
  setUp,
} from './support';
import type { Page } from '@playwright/test';

type P = readonly [number, number];
const between = (a: P, b: P, t: number): P => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];

interface PlateTruth {
  readonly width: number;
  readonly stance: { readonly roll: number; readonly tilt: number; readonly swing: number };
  readonly panels: readonly { readonly corners: readonly [P, P, P, P] }[];
}
const plate = JSON.parse(demoPicture('name-plate.truth.json').toString()) as PlateTruth;
const corners = plate.panels[0]!.corners;

async function type(page: Page, label: string, value: string): Promise<void> {
  await page.getByLabel(label, { exact: true }).fill(value);
  await page.getByLabel(label, { exact: true }).press('Enter');
}

/** Moves the keyboard's pen from one plane point to another and presses Enter; with the stage at any zoom. */
async function penTo(page: Page, from: P, to: P): Promise<void> {
  for (const [way, keys] of [
    [to[0] - from[0], ['ArrowLeft', 'ArrowRight']],
    [to[1] - from[1], ['ArrowUp', 'ArrowDown']],
  ] as const) {
    let rest = Math.round(Math.abs(way));
    const key = keys[way > 0 ? 1 : 0];
    for (const [step, held] of [
      [100, 'Control+'],
      [10, 'Shift+'],
      [1, ''],
    ] as const) {
      for (; rest >= step; rest -= step) await page.keyboard.press(held + key);
    }
  }
  await page.keyboard.press('Enter');
}

/** Draws known edges with the keyboard alone, each where it lies on the corrected picture by then; the pen starts in the view's middle. */
async function drawByKeys(page: Page, name: string, names: readonly string[]): Promise<void> {
  const { composeWarp, fitOutline, parseCorrection, toPlane } = await import('@able-plumb/core');
  const truth = demoTruth(name);
  let pen: P | null = null;
  for (const [index, edgeName] of names.entries()) {
    const edge = truth.edges.find((e) => e.name === edgeName)!;
    await expect.poll(async () => parseCorrection(await documentOf(page)).references.length).toBe(index);
    const correction = parseCorrection(await documentOf(page));
    const warp = composeWarp(correction, correction.picture);
    pen ??= fitOutline(warp.outline, warp.crop, { width: 772, height: 704 }, false, false).centre;
    const [a, b] = [toPlane(warp, edge.a)!, toPlane(warp, edge.b)!];
    await penTo(page, pen, a);
    // the pen moves by whole steps from where it stood
    const reached: P = [pen[0] + Math.round(a[0] - pen[0]), pen[1] + Math.round(a[1] - pen[1])];
    await penTo(page, reached, b);
    pen = [reached[0] + Math.round(b[0] - reached[0]), reached[1] + Math.round(b[1] - reached[1])];
    await expect(page.locator('ap-references-step tbody tr')).toHaveCount(index + 1);
  }
}

async function exportByKeys(page: Page): Promise<Buffer> {
  await page.keyboard.press('7');
  const button = page.getByRole('button', { name: 'Export', exact: true });
  for (let i = 0; i < 60 && !(await button.evaluate((b) => b === document.activeElement)); i += 1) await page.keyboard.press('Tab');
  const [download] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('Enter')]);
  return readFileSync(await download.path());
}

test('the tower and the pump hall by keyboard alone', async ({ page }) => {
  for (const [name, edges] of [
    ['water-tower', ['left pier, outer', 'right pier, outer']],
    ['pump-hall-front', ['left pier, outer', 'right pier, outer', 'cornice, lower', 'top of the base']],
  ] as const) {
    await openPicture(page, `${name}.jpg`, demoPicture(`${name}.jpg`));
    await drawByKeys(page, name, edges);
    const file = await exportByKeys(page);
    for (const lean of await leansInFile(page, demoTruth(name), file)) expect(Math.abs(lean), name).toBeLessThan(0.3);
  }
});

test('the stair by middle plumb: the crop moves, and its middle stays plumb', async ({ page }) => {
  const { apply3, focalPxFrom35, leanDeg, parseCorrection, composeWarp, rotationFromAttitude, toPicture, transpose3, rectCentre } =
    await import('@able-plumb/core');
  const truth = JSON.parse(demoPicture('stair.truth.json').toString()) as PlateTruth & { height: number; focal35: number };
  await openPicture(page, 'stair.jpg', demoPicture('stair.jpg'));
  await setUp(page, 'turn only');
  await drawEdges(page, demoTruth('stair'), ['far corner, left', 'far corner, right', 'tread 4', 'tread 12']);
  // convergence stays on purpose: it is said as such, from the result, and is no error; level lines have no say
  await expect(page.locator('ap-readings strong')).toContainText(/Held back [5-9]\.\d°/);
  await expect(page.locator('ap-references-step tbody tr').nth(2)).toContainText('not counted');
  await expect(page.locator('ap-readings .stance')).not.toContainText('Looking');
  await openStep(page, 'Stance');
  await page.getByLabel('keep the middle plumb while the crop moves').check();
  await openStep(page, 'Crop');
  // the right side far to the left: the middle is elsewhere now
  const area = (await page.locator('ap-stage .area').boundingBox())!;
  const frame = (await page.locator('g.crop .over').boundingBox())!;
  // its lines go 18 px beyond the corners
  const right = frame.x + frame.width - 18;
  const y = area.y + area.height / 2;
  await page.mouse.move(right, y);
  await page.mouse.down();
  await page.mouse.move(right - 150, y, { steps: 5 });
  await page.mouse.up();
  const { file } = await exportFile(page, 'JPEG');
  const correction = parseCorrection(await documentOf(page));
  const warp = composeWarp(correction, correction.picture);
  expect((await sharp(file).metadata()).width).toBe(warp.outputSize.width);
  expect(correction.stance.aim.roll).not.toBe(0);
  // the camera that rendered it: a vertical through the middle of the crop runs towards K R^T e_y
  const f = focalPxFrom35(truth.focal35, truth);
  const down = apply3(transpose3(rotationFromAttitude(truth.stance)), [0, 1, 0]);
  const vanishing: P = [(f * down[0]) / down[2] + truth.width / 2, (f * down[1]) / down[2] + truth.height / 2];
  const middle = toPicture(warp, rectCentre(warp.crop))!;
  const near = between(middle, vanishing, -0.01);
  expect(Math.abs(leanDeg(warp.toOutput(...middle)!, warp.toOutput(...near)!))).toBeLessThan(0.25);
});

test('a room corner with return lines: the pen asks, and the end wall comes out square', async ({ page }) => {
  const truth = demoTruth('filter-gallery');
  await openPicture(page, 'filter-gallery.jpg', demoPicture('filter-gallery.jpg'));
  const at = await onScreen(page, truth.width);
  const band = truth.edges.find((e) => e.name === 'floor band, left')!;
  await dragLine(page, at(band.a), at(band.b));
  const question = page.getByRole('group', { name: 'What is this line in reality?' });
  // until it is answered nothing moves
  await expect(page.locator('ap-readings strong')).toContainText('Not known yet');
  await expect(page.locator('ap-references-step tbody tr')).toContainText('to be told');
  await question.getByRole('button', { name: 'Return' }).click();
  await expect(question).toHaveCount(0);
  await drawEdges(page, truth, ['floor band, right', 'left rib 2', 'left rib 3', 'floor joint 2 m']);
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(5);
  const { file } = await exportFile(page, 'JPEG');
  for (const lean of await leansInFile(page, truth, file)) expect(Math.abs(lean)).toBeLessThan(0.3);
  const { stance } = (await documentOf(page)) as { stance: { roll: number; tilt: number; swing: number } };
  // the camera that rendered it: 2.2 anticlockwise, 6 down, 3 left
  expect(Math.abs(stance.roll + 2.2)).toBeLessThan(0.2);
  expect(Math.abs(stance.tilt + 6)).toBeLessThan(0.3);
  expect(Math.abs(stance.swing + 3)).toBeLessThan(0.3);
});

test('the engine hall’s floor as the front: seen from straight above, its joints run across and up and down', async ({ page }) => {
  const { composeWarp, leanDeg, parseCorrection, slopeDeg } = await import('@able-plumb/core');
  const truth = demoTruth('engine-hall');
  await openPicture(page, 'engine-hall.jpg', demoPicture('engine-hall.jpg'));
  await openStep(page, 'Lens');
  await page.getByRole('radio', { name: 'hand' }).click();
  await type(page, 'Bend', '-6.5');
  await openStep(page, 'References');
  await setUp(page, 'floor');
  await drawEdges(page, truth, ['floor joint 4 m', 'floor joint 6 m', 'floor joint, middle', 'floor joint, left']);
  await expect(page.locator('ap-references-step tbody tr').first()).toContainText('Across');
  await expect(page.locator('ap-references-step tbody tr').last()).toContainText('Up and down');
  await openStep(page, 'Crop');
  await page.getByRole('radio', { name: 'kept', exact: true }).click();
  await openStep(page, 'Export');
  await pick(page, 'Size', 'long edge');
  const { file } = await exportFile(page, 'PNG');
  const correction = parseCorrection(await documentOf(page));
  const warp = composeWarp(correction, correction.picture);
  expect((await sharp(file).metadata()).width).toBe(warp.outputSize.width);
  for (const { name, kind, a, b } of truth.edges.filter((e) => e.name.startsWith('floor joint'))) {
    const [p, q] = [warp.toOutput(...a), warp.toOutput(...b)];
    const off = kind === 'level' ? slopeDeg(p!, q!) : leanDeg(p!, q!);
    expect(Math.abs(off), name).toBeLessThan(0.8);
  }
});

test('one line and the picture’s border: the far edge comes to stand beside it', async ({ page }) => {
  const { composeWarp, leanDeg, parseCorrection } = await import('@able-plumb/core');
  const truth = demoTruth('pump-hall-front');
  await openPicture(page, 'pump-hall-front.jpg', demoPicture('pump-hall-front.jpg'));
  await drawEdges(page, truth, ['right pier, outer']);
  await page.getByRole('button', { name: 'Border' }).click();
  await page.getByRole('menuitem', { name: 'left' }).click();
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(2);
  const { file } = await exportFile(page, 'JPEG');
  const correction = parseCorrection(await documentOf(page));
  const warp = composeWarp(correction, correction.picture);
  expect((await sharp(file).metadata()).width).toBe(warp.outputSize.width);
  const edge = truth.edges.find((e) => e.name === 'right pier, outer')!;
  expect(Math.abs(leanDeg(warp.toOutput(...edge.a)!, warp.toOutput(...edge.b)!))).toBeLessThan(0.15);
  expect(Math.abs(leanDeg(warp.toOutput(0, 0)!, warp.toOutput(0, truth.height)!))).toBeLessThan(0.01);
});

test('a panel by its four edges while a corner is hidden; lengths on it, margins dragged, the file at 1:5 says its pixels an inch', async ({
  page,
}) => {
  const { parseCorrection } = await import('@able-plumb/core');
  // a leaf over the lower right corner
  const leaf = { input: { create: { width: 170, height: 150, channels: 3, background: '#5d7a44' } }, left: 1930, top: 1160 } as const;
  const picture = await sharp(demoPicture('name-plate.jpg')).keepExif().composite([leaf]).jpeg({ quality: 92 }).toBuffer();
  await openPicture(page, 'name-plate.jpg', picture);
  let at = await onScreen(page, plate.width);
  await page.keyboard.press('r');
  const sides = [0, 1, 2, 3].map((i) => [corners[i]!, corners[(i + 1) % 4]!] as const);
  for (const [k, [p, q]] of sides.entries()) {
    // anywhere along the side, clear of the leaf
    await dragLine(page, at(between(p, q, k === 2 ? 0.25 : 0.1)), at(between(p, q, k === 1 ? 0.7 : 0.85)));
    if (k < 3) await expect(page.locator('ap-stage g.panel')).toHaveCount(k + 1);
  }
  await expect(page.locator('ap-panel-card')).toHaveCount(1);
  const { stance } = parseCorrection(await documentOf(page));
  // pointing to a screen pixel is four of the picture's here, but the magnet lays the edges on the real ones
  for (const movement of ['roll', 'tilt', 'swing'] as const)
    expect(Math.abs(stance[movement] - plate.stance[movement]), movement).toBeLessThan(0.4);

  await pick(page, 'Shape of panel 1', 'size');
  await type(page, 'Width of panel 1', '1200');
  await type(page, 'Height of panel 1', '450');
  await page.getByRole('button', { name: 'crop to it' }).click();
  await expect(page.locator('.margins .peg')).toHaveCount(4);
  const before = await page.locator('ap-readings dl div', { hasText: 'Output' }).textContent();
  const peg = (await page.locator('.margins .peg').first().boundingBox())!;
  await page.mouse.move(peg.x + peg.width / 2, peg.y + peg.height / 2);
  await page.mouse.down();
  await page.mouse.move(peg.x + peg.width / 2, peg.y - 30, { steps: 4 });
  await page.mouse.up();
  await expect(page.locator('ap-readings dl div', { hasText: 'Output' })).not.toHaveText(before!);
  const margins = parseCorrection(await documentOf(page)).panels[0]!.margins;
  expect(margins.top).toBeGreaterThan(10);
  expect([margins.right, margins.bottom, margins.left]).toEqual([0, 0, 0]);
  await type(page, 'Margin top of panel 1', '0');

  // the height of the plate, measured
  await page.keyboard.press('0');
  await page.getByRole('radio', { name: 'original' }).click();
  at = await onScreen(page, plate.width);
  await page.keyboard.press('l');
  await page.keyboard.down('Shift');
  await dragLine(page, at(corners[0]), at(corners[3]));
  await page.keyboard.up('Shift');
  const length = page.locator('ap-references-step .lengths li', { hasText: 'Length 1' });
  await expect(length).toContainText('mm');
  expect(Math.abs(parseFloat((await length.locator('strong').textContent())!) - 450)).toBeLessThan(12);

  await openStep(page, 'Export');
  await pick(page, 'Size', 'to scale, 1:n');
  await type(page, 'Scale, one to', '5');
  const { file } = await exportFile(page, 'PNG');
  const meta = await sharp(file).metadata();
  // 1200 x 450 mm at 1:5 and 300 pixels an inch
  expect([meta.width, meta.height, meta.density]).toEqual([2835, 1063, 300]);
});

test('corners settle on real ones; the panel becomes a picture of its own; one corner is nudged by keys', async ({ page }) => {
  const { parseCorrection } = await import('@able-plumb/core');
  await openPicture(page, 'name-plate.jpg', demoPicture('name-plate.jpg'));
  const at = await onScreen(page, plate.width);
  await page.keyboard.press('q');
  for (const corner of corners) await page.mouse.click(at(corner)[0] + 0.6, at(corner)[1] - 0.6);
  await expect(page.locator('ap-panel-card')).toHaveCount(1);
  const document1 = parseCorrection(await documentOf(page));
  for (const movement of ['roll', 'tilt', 'swing'] as const)
    expect(Math.abs(document1.stance[movement] - plate.stance[movement]), movement).toBeLessThan(0.25);
  // E takes the first corner into the hand, arrows move it alone
  await page.keyboard.press('e');
  await expect(page.locator('.ring.held')).toHaveCount(1);
  await page.keyboard.press('Shift+ArrowDown');
  const document2 = parseCorrection(await documentOf(page));
  const moved = document2.panels[0]!.corners!.map((p, i) =>
    Math.hypot(p[0] - document1.panels[0]!.corners![i]![0], p[1] - document1.panels[0]!.corners![i]![1]),
  );
  expect(moved[0]).toBeGreaterThan(5);
  expect(moved.slice(1)).toEqual([0, 0, 0]);
  await page.keyboard.press('Control+z');
  await page.getByRole('button', { name: 'its own picture' }).click();
  await expect(page.locator('h1')).toHaveText('name-plate, panel 1.jpg');
  await expect(page.locator('.count')).toHaveText('2 of 2');
  const { name, file } = await exportFile(page, 'JPEG');
  expect(name).toBe('name-plate, panel 1-plumb.jpg');
  const meta = await sharp(file).metadata();
  expect(meta.width! / meta.height!).toBeCloseTo(1200 / 450, 1);
});

test('where the metadata say nothing the focal length is assumed, then solved; as much as fits stays within its limits', async ({
  page,
}) => {
  const truth = demoTruth('water-tower');
  // without its metadata, and upright as it is shown
  const bare = await sharp(demoPicture('water-tower.jpg')).rotate().jpeg({ quality: 92 }).toBuffer();
  await openPicture(page, 'bare.jpg', bare);
  const lens = page.locator('ap-step-string .step', { hasText: 'Lens' });
  await expect(lens).toContainText('28.0 mm, assumed');
  await drawEdges(page, truth, ['left pier, outer', 'right pier, outer']);
  await expect(lens).toContainText('assumed');
  await drawEdges(page, truth, ['top of the base', 'corbel table, upper']);
  await expect(lens).toContainText('solved');
  // the camera that rendered it: 24 mm
  expect(Math.abs(parseFloat((await lens.locator('.line').textContent())!) - 24)).toBeLessThan(1.5);
  await openStep(page, 'Lens');
  await type(page, '35 mm eq.', '23.5');
  await expect(lens).toContainText('23.5 mm, typed');
  await openStep(page, 'Stance');
  await page.getByLabel('stretch up to').fill('1.5');
  await page.getByLabel('keep at least').fill('30');
  await page.getByRole('button', { name: 'take out what fits' }).click();
  await expect(page.locator('.outcome')).toContainText('% fit');
  const peak = page.locator('ap-readings dl div', { hasText: 'Peak stretch' });
  expect(parseFloat((await peak.locator('dd').textContent())!)).toBeLessThanOrEqual(1.5);
  await expect(page.locator('ap-step-string .tail')).toContainText('held back');
});
