import sharp from 'sharp';
import { demoPicture, expect, onBench, slippingHorizon, test } from './support';

test('bad input gets a plain sentence each, and everything else is intact', async ({ page }) => {
  const jpeg = demoPicture('stair.jpg');
  const bomb = await sharp({ create: { width: 4, height: 4, channels: 3, background: '#888' } })
    .png()
    .toBuffer();
  bomb.writeUInt32BE(20000, 16);
  bomb.writeUInt32BE(20000, 20);
  const one = await sharp({ create: { width: 1, height: 1, channels: 3, background: '#888' } })
    .png()
    .toBuffer();
  await page.goto('/');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([
      { name: 'notes.jpg', mimeType: 'image/jpeg', buffer: Buffer.from('these are notes') },
      { name: 'frame.nef', mimeType: '', buffer: Buffer.from('MM\0*rawrawraw') },
      { name: 'cut.jpg', mimeType: 'image/jpeg', buffer: jpeg.subarray(0, 90_000) },
      { name: 'nothing.png', mimeType: 'image/png', buffer: Buffer.alloc(0) },
      { name: 'huge.png', mimeType: 'image/png', buffer: bomb },
      { name: 'one.png', mimeType: 'image/png', buffer: one },
      { name: 'sea.png', mimeType: 'image/png', buffer: await slippingHorizon(600, 400, 2) },
    ]);
  const refused = page.locator('.refused p');
  await expect(refused).toHaveCount(5);
  const text = await page.locator('.refused').innerText();
  for (const part of [
    'notes.jpg is not a picture',
    'frame.nef is a raw file from a camera',
    'cut.jpg is cut short',
    'nothing.png is empty',
    'huge.png is too large: 20000 x 20000',
  ])
    expect(text).toContain(part);
  await expect(page.locator('.card')).toContainText('2 pictures');
  // the picture of one pixel opens and can be left again
  await page.locator('.thumbs').click();
  await onBench(page);
  await expect(page.locator('h1')).toHaveText('one.png');
  await expect(page.locator('ap-readings')).toContainText('1 × 1');
  await page.keyboard.press('PageDown');
  await expect(page.locator('h1')).toHaveText('sea.png');
  await onBench(page);
  // an address that is no picture leads back to the jobs
  await page.goto('/bench/none');
  await expect(page.locator('.card')).toHaveCount(1);
});

test('a picture whose pixels are damaged says so on the bench, and the bench goes on', async ({ page }) => {
  const good = await slippingHorizon(600, 400, 2);
  const damaged = Buffer.from(good);
  // inside the compressed data: the header still reads
  for (let k = Math.floor(damaged.length / 2); k < damaged.length / 2 + 20; k += 1) damaged[k] = 0;
  await page.goto('/');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([
      { name: 'damaged.png', mimeType: 'image/png', buffer: damaged },
      { name: 'good.png', mimeType: 'image/png', buffer: good },
    ]);
  await page.waitForURL('**/bench/**');
  await expect(page.locator('.notice.trouble')).toContainText('damaged.png is damaged');
  await page.keyboard.press('PageDown');
  await onBench(page);
  await expect(page.locator('.notice')).toHaveCount(0);
});

test('where there is no room in memory for a picture it is taken in all the same, the bench says so, and shows it once there is', async ({
  page,
}) => {
  // what browsers throw where they have no more
  const full = `globalThis.SharedArrayBuffer = class { constructor() { throw new RangeError('Array buffer allocation failed'); } };\n`;
  await page.route('**/worker-*.js', async (route) => {
    const response = await route.fetch();
    return route.fulfill({ response, body: full + (await response.text()) });
  });
  const buffer = await sharp(demoPicture('stair.jpg')).resize(600, 400, { fit: 'fill' }).tiff({ compression: 'lzw' }).toBuffer();
  await page.goto('/');
  await page.locator('input[type=file]').first().setInputFiles({ name: 'stair.tif', mimeType: 'image/tiff', buffer });
  await page.waitForURL('**/bench/**');
  await expect(page.locator('.notice.trouble')).toContainText(
    'There is no room in memory for stair.tif. Close other pages and open it again',
  );
  await page.unroute('**/worker-*.js');
  await page.reload();
  await onBench(page);
  await expect(page.locator('.notice.trouble')).toHaveCount(0);
});
