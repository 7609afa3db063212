import type { Page } from '@playwright/test';
import {
  documentOf,
  expect,
  exportFile,
  onScreen,
  openStep,
  openPicture,
  pixelsOf,
  slippingHorizon,
  test,
  typeRoll,
  pick,
} from './support';

type P = readonly [number, number];
const drag = async (page: Page, from: P, to: P): Promise<void> => {
  await page.mouse.move(...from);
  await page.mouse.down();
  await page.mouse.move((from[0] + to[0]) / 2, (from[1] + to[1]) / 2);
  await page.mouse.move(...to);
  await page.mouse.up();
};

test('a keep box in the corner: the turned picture’s crop cuts it, and the ways out are offered with what they keep', async ({ page }) => {
  await openPicture(page, 'gallery.png', await slippingHorizon(600, 400, 0));
  await openStep(page, 'Crop');
  const at = await onScreen(page, 600);
  await page.keyboard.press('h');
  await drag(page, at([20, 20]), at([120, 110]));
  await expect(page.locator('.keep-box text')).toHaveText('keep 1');
  const [box] = ((await documentOf(page))['crop'] as { keep: Record<'x' | 'y' | 'width' | 'height', number>[] }).keep;
  expect(Math.abs(box!.x - 20) + Math.abs(box!.width - 100)).toBeLessThan(4);
  await typeRoll(page, '6');
  await openStep(page, 'Crop');
  await expect(page.getByRole('alert')).toContainText('The crop cuts a keep box. Ways out:');
  await expect(page.getByRole('radio', { name: /^the picture clear, \d+ % .* cuts a box/ })).toBeVisible();
  await page.getByRole('button', { name: /^Keep the empty edges, keeps 100 %/ }).click();
  await expect(page.getByText('The crop cuts a keep box')).toHaveCount(0);
  await page.getByLabel('Remove keep box 1').click();
  await expect(page.locator('.keep-box')).toHaveCount(0);
});

test('a crop is typed in pixels and as a print, pulled beyond the picture it asks, and a side is drawn to a guide', async ({ page }) => {
  await openPicture(page, 'plate.png', await slippingHorizon(900, 600, 0));
  await openStep(page, 'Crop');
  await page.getByRole('radio', { name: 'free', exact: true }).click();
  await page.getByLabel('Width of the crop').fill('500');
  await page.getByLabel('Width of the crop').press('Enter');
  await page.getByLabel('Height of the crop').fill('300');
  await page.getByLabel('Height of the crop').press('Enter');
  await expect(page.locator('ap-readings')).toContainText('500 × 300');
  await pick(page, 'Unit of the crop', 'cm');
  await page.getByLabel('Width of the crop').fill('5.08');
  await page.getByLabel('Width of the crop').press('Enter');
  await expect(page.locator('ap-readings')).toContainText('600 × 300');
  const { file } = await exportFile(page, 'PNG');
  expect(await pixelsOf(file)).toMatchObject({ width: 600, height: 300 });

  // the right side to within the magnet's reach of the picture's own: it lands on it
  await openStep(page, 'Crop');
  const at = await onScreen(page, 900);
  await drag(page, at([750, 300]), [at([900, 300])[0] - 4, at([900, 300])[1]]);
  await expect(page.locator('ap-readings')).toContainText('750 × 300');
  // far beyond it: said, and kept when asked for
  await drag(page, at([900, 300]), at([960, 300]));
  await expect(page.getByText('The crop you set reaches beyond the picture')).toBeVisible();
  await page.getByRole('button', { name: 'Keep the empty edges' }).click();
  await expect(page.locator('ap-readings')).toContainText(/8[01]\d × 300/);
  const wide = await exportFile(page, 'PNG');
  expect((await pixelsOf(wide.file)).width).toBeGreaterThan(800);
});
