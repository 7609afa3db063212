import { readFileSync } from 'node:fs';
import { composeWarp, enlargementAt, parseCorrection, readingsOf } from '@able-plumb/core';
import sharp from 'sharp';
import {
  demoPicture,
  demoTruth,
  documentOf,
  dragLine,
  drawEdges,
  expect,
  onBench,
  openStep,
  openPicture,
  slippingHorizon,
  test,
} from './support';

/** Colour of a canvas at a place of the stage, device px; null where it is empty. */
const colourAt = (canvas: string, x: number, y: number) =>
  `(() => { const c = document.querySelector(${JSON.stringify(canvas)}); const d = c.getContext('2d').getImageData(${Math.round(x)}, ${Math.round(y)}, 1, 1).data; return d[3] === 0 ? null : [d[0], d[1], d[2]]; })()`;

test('check the tower: wipe and side by side in register, and a page with both pictures and the numbers', async ({ page }) => {
  const truth = demoTruth('water-tower');
  await openPicture(page, 'water-tower.jpg', demoPicture('water-tower.jpg'));
  await drawEdges(page, truth, ['left pier, outer', 'right pier, outer', 'top of the base', 'corbel table, upper']);
  await page.keyboard.press('6');
  await expect(page.locator('canvas.compared')).toHaveAttribute('data-drawn', /.+/);
  await expect(page.locator('ap-check-step tbody tr')).toHaveCount(4);
  await expect(page.locator('ap-check-step ap-line-chart .bars').first()).toBeVisible();
  // in register: both planes have the picture's middle in the same place, so that both show the same colour there
  const area = (await page.locator('ap-stage .area').boundingBox())!;
  const rulers = await page.locator('.ruler.top text').allTextContents();
  expect(rulers.length).toBeGreaterThan(2);
  const view = await page.evaluate(() => {
    const ticks = Array.from(document.querySelectorAll('.ruler.top text'), (t) => [Number(t.getAttribute('x')) - 4, Number(t.textContent)]);
    const [a, b] = [ticks[0]!, ticks.at(-1)!];
    const scale = (b[0]! - a[0]!) / (b[1]! - a[1]!);
    const rows = Array.from(document.querySelectorAll('.ruler.left text'), (t) => [
      Number(/translate\(12 ([-\d.]+)/.exec(t.getAttribute('transform') ?? '')?.[1]) + 4,
      Number(t.textContent),
    ]);
    return { x: a[0]! + (1200 - a[1]!) * scale, y: rows[0]![0]! + (1800 - rows[0]![1]!) * scale };
  });
  const middle = (await sharp(demoPicture('water-tower.jpg'))
    .rotate()
    .extract({ left: 1197, top: 1797, width: 6, height: 6 })
    .resize(1, 1)
    .removeAlpha()
    .raw()
    .toBuffer()) as Buffer;
  for (const canvas of ['ap-stage .area > canvas', 'canvas.compared']) {
    const colour = (await page.evaluate(colourAt(canvas, view.x, view.y))) as number[];
    for (const k of [0, 1, 2]) expect(Math.abs(colour[k]! - middle[k]!), `${canvas} channel ${k}`).toBeLessThan(40);
  }
  // the wipe goes where it is dragged
  const wipe = (await page.locator('.wipe').boundingBox())!;
  await dragLine(page, [wipe.x, area.y + area.height / 2], [area.x + area.width * 0.25, area.y + area.height / 2]);
  expect(Math.abs(Number(await page.locator('.wipe-at input').inputValue()) - 0.25)).toBeLessThan(0.02);
  await page.keyboard.press('c');
  await expect(page.locator('.halves')).toBeVisible();
  await page.keyboard.press('c');
  await expect(page.locator('canvas.compared')).toHaveCount(0);
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save check' }).click()]);
  expect(download.suggestedFilename()).toBe('water-tower-check.html');
  const html = readFileSync(await download.path(), 'utf8');
  expect(html).not.toMatch(/(src|href)="(?!data:image\/jpeg)/);
  // the numbers are those of the correction
  const correction = parseCorrection(await documentOf(page));
  const warp = composeWarp(correction, correction.picture);
  const readings = readingsOf(correction, warp);
  for (const r of readings.references) expect(html).toContain(`<td>${Math.abs(r.offDeg!).toFixed(2)}°</td>`);
  expect(html).toContain(`${warp.outputSize.width} × ${warp.outputSize.height} px, resampled once`);
  // both pictures are in it: the original whole, the result in its own proportions
  const pictures = [...html.matchAll(/data:image\/jpeg;base64,([A-Za-z0-9+/=]+)/g)].map((m) => Buffer.from(m[1]!, 'base64'));
  const sizes = await Promise.all(pictures.map((p) => sharp(p).metadata()));
  expect(sizes).toHaveLength(2);
  expect(sizes[0]!.width! / sizes[0]!.height!).toBeCloseTo(2400 / 3600, 2);
  expect(sizes[1]!.width! / sizes[1]!.height!).toBeCloseTo(warp.outputSize.width / warp.outputSize.height, 2);
  await page.reload();
  await onBench(page);
});

test('the stretch map says by how much each part was enlarged, and the legend what its shades mean', async ({ page }) => {
  await openPicture(page, 'tower.png', await slippingHorizon(600, 400, 0));
  await openStep(page, 'Stance');
  await page.getByLabel('Tilt', { exact: true }).fill('14');
  await page.getByLabel('Tilt', { exact: true }).press('Enter');
  await openStep(page, 'Check');
  await page.getByRole('radio', { name: 'result' }).click();
  await page.getByLabel('over the picture').check();
  await expect(page.getByRole('list', { name: 'Steps of the stretch map' })).toContainText('as taken');
  const correction = parseCorrection(await documentOf(page));
  const warp = composeWarp(correction, correction.picture);
  const rows = await page.locator('.stretch text').evaluateAll((texts) => texts.map((t) => parseFloat(t.textContent ?? '')));
  // looking up, the top is enlarged most; the first figure stands in the fifth cell of the fifth row
  expect(rows.length).toBeGreaterThan(8);
  expect(rows[0]!).toBeGreaterThan(rows.at(-1)! + 0.2);
  const { crop } = warp;
  const down = Math.round((45 * crop.height) / crop.width);
  const [truth] = enlargementAt(warp, crop.x + (crop.width * 4.5) / 45, crop.y + (crop.height * 4.5) / down)!;
  expect(rows[0]!).toBeCloseTo(truth, 1);
  await page.getByLabel('over the picture').uncheck();
  await expect(page.locator('.stretch')).toHaveCount(0);
});
