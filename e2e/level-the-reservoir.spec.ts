import ExifReader from 'exifreader';
import sharp from 'sharp';
import {
  demoPicture,
  demoTruth,
  dragLine,
  expect,
  exportByKeys,
  exportFile,
  horizonSlopeDeg,
  onScreen,
  openStep,
  openPicture,
  pixelsOf,
  slippingHorizon,
  stripSlopeDeg,
  test,
  typeRoll,
} from './support';

const SLIP = 1.48;
const [W, H] = [1600, 1100];

test('level the reservoir: one drag along the waterline, then Export', async ({ page }) => {
  const truth = demoTruth('reservoir');
  const line = truth.edges[0]!;
  const original = demoPicture('reservoir.jpg');
  await openPicture(page, 'reservoir.jpg', original);
  const at = await onScreen(page, truth.width);
  await dragLine(page, at([line.a[0] + 60, line.a[1]]), at([line.b[0] - 60, line.b[1]]));
  // one line comes true by construction, and nothing checks it
  await expect(page.locator('ap-readings strong')).toContainText('As drawn');
  await expect(page.locator('ap-readings .verdict')).toContainText('nothing checks it yet; sure to 0.0', { ignoreCase: true });
  const { name, file } = await exportFile(page, 'JPEG');
  expect(name).toBe('reservoir-plumb.jpg');
  const meta = await sharp(file).metadata();
  expect(meta.width).toBeLessThan(3600);
  expect(Math.abs((meta.width ?? 0) / (meta.height ?? 1) - 1.5)).toBeLessThan(0.002);
  const { exif, icc } = await ExifReader.load(file.buffer as ArrayBuffer, { async: true, expanded: true });
  expect(exif?.Orientation?.value).toBe(1);
  expect(exif?.PixelXDimension?.value).toBe(meta.width);
  expect(exif?.DateTimeOriginal?.description).toBe('2026:04:14 09:12:31');
  expect(exif?.LensModel?.description).toBe('Hollin 35 mm f/2');
  expect(icc?.['ICC Description']?.description).toBe('sRGB (Tarnbeck survey)');
  // the far bank against the water, found in the file
  const slope = await stripSlopeDeg(file, [0.03, 0.12], [0.44, 0.56], [0.47, 0.53]);
  expect(Math.abs(slope)).toBeLessThan(0.06);
});

test('by typing the angle, in several steps or in one: the same file, level to 0.01 degrees', async ({ page }) => {
  await openPicture(page, 'sea.png', await slippingHorizon(W, H, SLIP));
  await typeRoll(page, '1.48');
  const once = await exportFile(page, 'PNG');
  expect(Math.abs(await horizonSlopeDeg(once.file))).toBeLessThan(0.01);
  for (const step of ['0.4', '-3', '12.5', '1.1', '1.48']) await typeRoll(page, step);
  const steps = await exportFile(page, 'PNG');
  expect(steps.file.equals(once.file)).toBe(true);
});

test('by two clicks, then the end nudged: the readout says the angle, the file is level', async ({ page }) => {
  await openPicture(page, 'sea.png', await slippingHorizon(W, H, SLIP));
  const at = await onScreen(page, W);
  const rise = Math.tan((SLIP * Math.PI) / 180);
  const [a, b] = [at([200, H / 2 + 600 * rise]), at([1400, H / 2 - 600 * rise])];
  await page.mouse.click(...a);
  await page.mouse.move(...b, { steps: 4 });
  await expect(page.locator('.tag').last()).toContainText(/level 1\.[345]\d° up/);
  await expect(page.locator('.loupe')).toBeVisible();
  await page.mouse.click(...b);
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(1);
  const { file } = await exportFile(page, 'PNG');
  // the magnet lays the line on the horizon itself
  expect(Math.abs(await horizonSlopeDeg(file))).toBeLessThan(0.01);
});

test('by keyboard only', async ({ page }) => {
  await openPicture(page, 'sea.png', await slippingHorizon(W, H, SLIP));
  const press = async (key: string, times = 1): Promise<void> => {
    for (let i = 0; i < times; i += 1) await page.keyboard.press(key);
  };
  // the pen starts in the middle, on the horizon: 700 left and 18 down (700 tan 1.48 = 18.09), then to the mirror place
  await press('Control+ArrowLeft', 7);
  await press('Shift+ArrowDown');
  await press('ArrowDown', 8);
  await press('Alt+ArrowDown');
  await press('Enter');
  await press('Control+ArrowRight', 14);
  await press('Shift+ArrowUp', 3);
  await press('ArrowUp', 6);
  await press('Alt+ArrowUp', 2);
  await press('Enter');
  await expect(page.locator('ap-references-step tbody tr')).toContainText('1.48° up');
  const file = await exportByKeys(page);
  expect(Math.abs(await horizonSlopeDeg(file))).toBeLessThan(0.01);
});

test('change kind, set aside, remove; the picture follows each', async ({ page }) => {
  await openPicture(page, 'sea.png', await slippingHorizon(W, H, SLIP));
  const at = await onScreen(page, W);
  // not along the edge, and meant so: the magnet is off
  await page.getByRole('button', { name: 'Magnet' }).click();
  await dragLine(page, at([200, 560]), at([1400, 540]));
  const stance = page.locator('ap-readings .stance');
  await expect(stance).toContainText('Rolled clockwise 0.95°');
  await page.keyboard.press('s');
  await expect(stance).toContainText('As taken; nothing tells how the camera stood');
  await page.keyboard.press('s');
  await page.keyboard.press('k');
  await expect(page.locator('ap-references-step .kind')).toContainText('Return 1');
  await page.keyboard.press('Control+z');
  await expect(page.locator('ap-references-step .kind')).toContainText('Level 1');
  await page.locator('ap-references-step tbody tr').click();
  await page.keyboard.press('Delete');
  await expect(stance).toContainText('As taken; nothing tells how the camera stood');
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(0);
  await openStep(page, 'References');
});

test('a JPEG with halved colour has the same picture and keeps what the camera wrote', async ({ page }) => {
  await openPicture(page, 'reservoir.jpg', demoPicture('reservoir.jpg'));
  await typeRoll(page, '-1.48');
  const exact = await exportFile(page, 'PNG');
  await page.getByRole('radio', { name: 'JPEG' }).click();
  await page.getByRole('radio', { name: 'halved' }).click();
  const { file } = await exportFile(page, 'JPEG');
  const meta = await sharp(file).metadata();
  expect([meta.format, meta.chromaSubsampling]).toEqual(['jpeg', '4:2:0']);
  const { exif, icc } = await ExifReader.load(file.buffer as ArrayBuffer, { async: true, expanded: true });
  expect(exif?.LensModel?.description).toBe('Hollin 35 mm f/2');
  expect(icc?.['ICC Description']?.description).toBe('sRGB (Tarnbeck survey)');
  const [a, b] = [await pixelsOf(exact.file), await pixelsOf(file)];
  expect([b.width, b.height]).toEqual([a.width, a.height]);
  let sum = 0;
  for (let k = 0; k < a.data.length; k += 1) sum += (a.data[k]! - b.data[k]!) ** 2;
  expect(10 * Math.log10(255 ** 2 / (sum / a.data.length))).toBeGreaterThan(34);
});
