import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import {
  demoPicture,
  expect,
  exportFile,
  horizonSlopeDeg,
  onBench,
  onScreen,
  openStep,
  openPicture,
  pixelsOf,
  slippingHorizon,
  test,
  typeRoll,
  dragLine,
  pick,
} from './support';

test('settings that change nothing give back the original’s pixels, 8 and 16 bit', async ({ page }) => {
  const eight = await slippingHorizon(640, 427, 7);
  await openPicture(page, 'sea.png', eight);
  const { file } = await exportFile(page, 'PNG');
  expect((await pixelsOf(file)).data.equals((await pixelsOf(eight)).data)).toBe(true);
  const values = new Uint16Array(120 * 80 * 3).map((_, k) => (k * 4099) & 65535);
  const sixteen = await sharp(values, { raw: { width: 120, height: 80, channels: 3 } })
    .toColourspace('rgb16')
    .png()
    .toBuffer();
  await openPicture(page, 'deep.png', sixteen);
  await openStep(page, 'Export');
  await page.getByRole('radio', { name: 'PNG' }).click();
  await page.getByRole('radio', { name: '16 bit' }).click();
  const deep = await exportFile(page, 'PNG');
  const back = await sharp(deep.file).toColourspace('rgb16').raw({ depth: 'ushort' }).toBuffer();
  expect(Buffer.from(values.buffer).equals(back)).toBe(true);
});

test('a JPEG’s colours are its own whatever its profile, and it stands upright: within a step of a reference decoder', async ({ page }) => {
  const stored = await sharp(demoPicture('stair.jpg'))
    .resize(900, 600, { fit: 'fill' })
    .withIccProfile('p3')
    .withMetadata({ orientation: 6 })
    .jpeg({ quality: 95 })
    .toBuffer();
  await openPicture(page, 'wide-colours.jpg', stored);
  const { file } = await exportFile(page, 'PNG');
  const theirs = await sharp(stored, { ignoreIcc: true }).autoOrient().raw().toBuffer({ resolveWithObject: true });
  const ours = await sharp(file, { ignoreIcc: true }).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  expect([ours.info.width, ours.info.height]).toEqual([600, 900]);
  expect([theirs.info.width, theirs.info.height]).toEqual([600, 900]);
  const off = theirs.data.map((v, k) => Math.abs(v - (ours.data[k] as number)));
  expect(Math.max(...off.filter((v) => v > 1)), 'greatest difference').toBe(-Infinity);
  expect((await sharp(file).metadata()).icc?.length).toBeGreaterThan(300);
});

test('a large picture that lies turned, packed by an editor, is shown and exported the right way up', async ({ page }) => {
  const stored = test.info().outputPath('tower.tif');
  await sharp(demoPicture('stair.jpg'))
    .resize(6500, 6400, { fit: 'fill' })
    .withMetadata({ orientation: 6 })
    .tiff({ compression: 'lzw', predictor: 'horizontal' })
    .toFile(stored);
  await page.goto('/');
  await page.locator('input[type=file]').first().setInputFiles(stored);
  await onBench(page);
  await expect(page.locator('ap-readings')).toContainText('6400 × 6500');
  const { file } = await exportFile(page, 'JPEG');
  const [theirs, ours] = await Promise.all([stored, file].map(async (picture) => sharp(picture).autoOrient().raw().toBuffer()));
  expect(ours!.length).toBe(theirs!.length);
  let off = 0;
  for (let k = 0; k < ours!.length; k += 1) off += Math.abs((ours![k] as number) - (theirs![k] as number));
  expect(off / ours!.length).toBeLessThan(1);
});

test('a picture turned by the camera’s sensor is turned by quarters', async ({ page }) => {
  const upright = await sharp(demoPicture('stair.jpg')).resize(400, 600, { fit: 'fill' }).png().toBuffer();
  const lying = await sharp(upright).rotate(-90).png().toBuffer();
  await openPicture(page, 'lying.png', lying);
  await page.keyboard.press('.');
  await expect(page.locator('ap-readings')).toContainText('400 × 600');
  const { file } = await exportFile(page, 'PNG');
  expect((await pixelsOf(file)).data.equals((await pixelsOf(upright)).data)).toBe(true);
  // two back: upside down; a flip mirrors the file
  await page.keyboard.press(',');
  await expect(page.locator('ap-readings')).toContainText('600 × 400');
  await page.keyboard.press(',');
  await expect(page.locator('ap-readings')).toContainText('400 × 600');
  await openStep(page, 'Stance');
  await page.getByRole('button', { name: 'Sideways' }).click();
  const flipped = await exportFile(page, 'PNG');
  const { width, height } = await pixelsOf(flipped.file);
  expect([width, height]).toEqual([400, 600]);
  expect((await pixelsOf(flipped.file)).data.equals((await pixelsOf(await sharp(upright).rotate(180).flop().png().toBuffer())).data)).toBe(
    true,
  );
});

test('trim, change proportions, crop by hand, undo everything, redo', async ({ page }) => {
  const picture = await slippingHorizon(1200, 800, 2.79);
  await openPicture(page, 'sea.png', picture);
  const size = page.locator('ap-readings');
  await typeRoll(page, '2.79');
  await openStep(page, 'Crop');
  const crop = page.locator('ap-crop-step');
  await crop.getByRole('radio', { name: '1:1', exact: true }).click();
  await crop.getByRole('radio', { name: '16:9', exact: true }).click();
  await page.keyboard.press('i');
  const tall = await exportFile(page, 'PNG');
  const meta = await sharp(tall.file).metadata();
  expect(Math.abs((meta.height ?? 0) / (meta.width ?? 1) - 16 / 9)).toBeLessThan(0.01);
  await openStep(page, 'Crop');
  await crop.getByLabel('Own proportions').fill('6:2');
  await crop.getByLabel('Own proportions').press('Enter');
  await expect(crop.getByRole('radio', { name: '6:2', exact: true })).toBeChecked();
  // a corner of the crop by hand
  const peg = await crop.page().locator('.peg').nth(4).boundingBox();
  const [x, y] = [(peg?.x ?? 0) + (peg?.width ?? 0) / 2, (peg?.y ?? 0) + (peg?.height ?? 0) / 2];
  await dragLine(page, [x, y], [x - 90, y - 30]);
  await expect(crop).toContainText('Set by hand');
  const byHand = (await size.locator('dd').last().textContent()) ?? '';
  expect(Number(byHand.split(' × ')[0]) / Number(byHand.split(' × ')[1])).toBeCloseTo(3, 1);
  const undo = page.getByRole('button', { name: 'Undo' });
  const steps = 6;
  for (let i = 0; i < steps; i += 1) await undo.click();
  await expect(undo).toBeDisabled();
  await expect(size).toContainText('1200 × 800');
  const untouched = await exportFile(page, 'PNG');
  expect((await pixelsOf(untouched.file)).data.equals((await pixelsOf(picture)).data)).toBe(true);
  for (let i = 0; i < steps; i += 1) await page.keyboard.press('Control+Shift+z');
  await expect(size.locator('dd').last()).toHaveText(byHand);
});

test('a correction goes out as a file and comes in for a smaller copy, scaled and said; other proportions are refused', async ({
  page,
}) => {
  await openPicture(page, 'sea.png', await slippingHorizon(1200, 800, 2));
  await typeRoll(page, '2');
  await openStep(page, 'Export');
  const save = page.getByRole('button', { name: 'Save correction' });
  const [download] = await Promise.all([page.waitForEvent('download'), save.click()]);
  expect(download.suggestedFilename()).toBe('sea.correction.json');
  const buffer = readFileSync(await download.path());
  await openPicture(page, 'small.png', await slippingHorizon(600, 400, 2));
  await openStep(page, 'Export');
  const apply = page.locator('ap-export-files input[type=file]');
  await apply.setInputFiles({ name: 'sea.correction.json', mimeType: 'application/json', buffer });
  await expect(page.locator('ap-export-files')).toContainText('it was made for sea.png, 1200 × 800 px');
  const { file } = await exportFile(page, 'PNG');
  expect(Math.abs(await horizonSlopeDeg(file))).toBeLessThan(0.02);
  await openPicture(page, 'square.png', await slippingHorizon(500, 500, 2));
  await openStep(page, 'Export');
  await apply.setInputFiles({ name: 'sea.correction.json', mimeType: 'application/json', buffer });
  await expect(page.locator('ap-export-files [role=alert]')).toContainText('other proportions (500 x 500)');
  await apply.setInputFiles({ name: 'no.json', mimeType: 'application/json', buffer: Buffer.from('{') });
  await expect(page.locator('ap-export-files [role=alert]')).toContainText('no.json is not JSON');
});

test('setting-out lines are picked from a strip, turned, pegged, and never part of the file', async ({ page }) => {
  await openPicture(page, 'sea.png', await slippingHorizon(900, 600, 0));
  const before = await exportFile(page, 'PNG');
  await openStep(page, 'Crop');
  const lines = page.locator('path.setting-out:not(.under)');
  await expect(lines).toHaveCount(0);
  await page.getByRole('radio', { name: 'spiral' }).click();
  const first = await lines.getAttribute('d');
  await page.keyboard.press('y');
  await expect(lines).not.toHaveAttribute('d', first!);
  // without the peg they are seen at Crop until something else is done, with it everywhere
  await openStep(page, 'Stance');
  await expect(lines).toHaveCount(0);
  await openStep(page, 'Crop');
  await page.getByRole('radio', { name: 'parts' }).click();
  await page.getByLabel('Parts').fill('6');
  await page.getByLabel('Parts').press('Tab');
  await page.getByLabel('pegged').check();
  await openStep(page, 'Stance');
  // five across and five down
  expect((await lines.getAttribute('d'))!.match(/M/g)).toHaveLength(10);
  const after = await exportFile(page, 'PNG');
  expect(after.file.equals(before.file)).toBe(true);
  await page.reload();
  await onBench(page);
  await expect(lines).toHaveCount(1);
});

test('empty edges kept are transparent in the file; clear ones hold none', async ({ page }) => {
  await openPicture(page, 'sea.png', await slippingHorizon(900, 600, 5));
  await typeRoll(page, '5');
  const clear = await exportFile(page, 'PNG');
  expect((await sharp(clear.file).metadata()).channels).toBe(3);
  await openStep(page, 'Crop');
  await page.locator('ap-crop-step').getByRole('radio', { name: 'kept', exact: true }).click();
  await page.locator('ap-crop-step .trims mat-button-toggle').last().click();
  const kept = await exportFile(page, 'PNG');
  const { data, info } = await sharp(kept.file).raw().toBuffer({ resolveWithObject: true });
  expect(info.channels).toBe(4);
  expect(data[3]).toBe(0);
  expect(data[(Math.floor(info.height / 2) * info.width + Math.floor(info.width / 2)) * 4 + 3]).toBe(255);
});

test('the nearest pixel mixes no colours of a mask; linear light keeps the light of fine stripes in a smaller file', async ({ page }) => {
  const mask = Buffer.alloc(600 * 400 * 3).map((_, k) => [200, 40, 90][Math.floor((k / 3 / 37) % 3)]! * (k % 3 === 0 ? 1 : 0));
  await openPicture(
    page,
    'mask.png',
    await sharp(mask, { raw: { width: 600, height: 400, channels: 3 } })
      .png()
      .toBuffer(),
  );
  await typeRoll(page, '4.2');
  await openStep(page, 'Export');
  await pick(page, 'Filter', 'Nearest pixel');
  await expect(page.getByText('Averages')).toHaveCount(0);
  const whole = await pixelsOf((await exportFile(page, 'PNG')).file);
  expect(new Set(whole.data.filter((_, k) => k % 3 === 0))).toEqual(new Set([40, 90, 200]));
  // the light of black and white in equal parts, by IEC 61966-2-1
  const stripes = Buffer.alloc(600 * 400 * 3).map((_, k) => (Math.floor(k / 3) % 2) * 255);
  await openPicture(
    page,
    'stripes.png',
    await sharp(stripes, { raw: { width: 600, height: 400, channels: 3 } })
      .png()
      .toBuffer(),
  );
  await openStep(page, 'Export');
  await pick(page, 'Size', 'long edge');
  await page.getByLabel('Long edge, pixels').fill('150');
  await page.getByLabel('Long edge, pixels').press('Enter');
  await page.getByRole('radio', { name: 'linear light' }).click();
  const small = await pixelsOf((await exportFile(page, 'PNG')).file);
  const middle = small.data[(50 * 150 + 75) * 3]!;
  expect(Math.abs(middle - 188)).toBeLessThan(3);
});

test('reload in the middle: everything is as it was, the undo history too, and the original byte for byte', async ({ page }) => {
  const picture = await slippingHorizon(1200, 800, 1.5);
  await openPicture(page, 'sea.png', picture);
  const at = await onScreen(page, 1200);
  await dragLine(page, at([150, 412]), at([1050, 388]));
  await openStep(page, 'Crop');
  const readings = (): Promise<string> => page.locator('ap-readings').innerText();
  const asTaken = await readings();
  await page.locator('ap-crop-step').getByRole('radio', { name: '5:4', exact: true }).click();
  await expect.poll(readings).not.toBe(asTaken);
  const before = await readings();
  await page.waitForTimeout(500);
  await page.reload();
  await onBench(page);
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(1);
  await expect.poll(readings).toBe(before);
  await page.keyboard.press('Control+z');
  await expect.poll(readings).not.toBe(before);
  await page.keyboard.press('Control+z');
  await expect(page.locator('ap-readings')).toContainText('1200 × 800');
  const same = await page.evaluate(async () => {
    const open = indexedDB.open('able-plumb');
    await new Promise((resolve) => (open.onsuccess = resolve));
    const stores = open.result.transaction(['originals', 'pictures']);
    const all = <T>(request: IDBRequest<T>): Promise<T> => new Promise((resolve) => (request.onsuccess = () => resolve(request.result)));
    const [files, pictures] = await Promise.all([
      all(stores.objectStore('originals').getAll()),
      all(stores.objectStore('pictures').getAll()),
    ]);
    const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', await (files[0] as Blob).arrayBuffer()));
    return {
      hash: Array.from(digest, (b) => b.toString(16).padStart(2, '0')).join(''),
      kept: (pictures[0] as { sha256: string }).sha256,
      size: (files[0] as Blob).size,
    };
  });
  expect(same.hash).toBe(same.kept);
  expect(same.size).toBe(picture.length);
});

test('a cancelled export leaves nothing', async ({ page }) => {
  await openPicture(page, 'pump-hall-front.jpg', demoPicture('pump-hall-front.jpg'));
  await typeRoll(page, '-1.4');
  await openStep(page, 'Export');
  let downloads = 0;
  page.on('download', () => (downloads += 1));
  await page.getByRole('button', { name: 'Export', exact: true }).click();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.locator('.done.trouble')).toContainText('nothing was written');
  await page.waitForTimeout(1500);
  expect(downloads).toBe(0);
});
