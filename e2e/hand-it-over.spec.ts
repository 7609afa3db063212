import { readFileSync } from 'node:fs';
import { BlobReader, Uint8ArrayWriter, ZipReader, type FileEntry } from '@zip.js/zip.js';
import sharp from 'sharp';
import type { Download, Page } from '@playwright/test';
import {
  demoPicture,
  documentOf,
  exportFile,
  expect,
  openStep,
  openPicture,
  slippingHorizon,
  test,
  typeRoll,
  pick,
  onBench,
} from './support';

async function zipOf(download: Download): Promise<Record<string, Uint8Array>> {
  const entries = await new ZipReader(new BlobReader(new Blob([readFileSync(await download.path())]))).getEntries();
  return Object.fromEntries(
    await Promise.all(entries.map(async (entry) => [entry.filename, await (entry as FileEntry).getData(new Uint8ArrayWriter())] as const)),
  );
}

/** Opens several files as one job; the first lies on the bench afterwards. */
async function openJob(page: Page, files: readonly { readonly name: string; readonly buffer: Buffer }[]): Promise<void> {
  await page.goto('/');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles(files.map(({ name, buffer }) => ({ name, mimeType: 'image/png', buffer })));
  await page.waitForURL('**/bench/**');
  await expect(page.locator('ap-stage .area > canvas')).toHaveAttribute('data-drawn', /.+/);
}

const exportNow = (page: Page): Promise<Download> =>
  Promise.all([
    page.waitForEvent('download', { timeout: 120_000 }),
    page.getByRole('button', { name: 'Export', exact: true }).click(),
  ]).then(([download]) => download);

/** Saves what the form says as a delivery. */
async function saveDelivery(page: Page, name: string, ratio: string): Promise<void> {
  await page.getByRole('button', { name: 'Save as a delivery' }).click();
  // its own field, not the pattern's of the same name, which is there before this one has come
  await page.locator('ap-export-deliveries').getByLabel('Name of the delivery').fill(name);
  await pick(page, 'Proportions of the delivery', ratio);
  await page.getByRole('button', { name: 'Save it' }).click();
}

test('a TIFF of 16 bits goes out as it came in, bit for bit, and a corrected one keeps its depth', async ({ page }) => {
  const samples = Uint16Array.from({ length: 320 * 200 * 3 }, (_, k) => (k * 4099) & 65535);
  const tiff = await sharp(samples, { raw: { width: 320, height: 200, channels: 3 } })
    .toColourspace('rgb16')
    .withIccProfile('p3')
    .tiff({ compression: 'lzw', predictor: 'horizontal' })
    .toBuffer();
  await openPicture(page, 'filter-gallery.tif', tiff);
  const read = (file: Buffer) => sharp(file).toColourspace('rgb16').raw({ depth: 'ushort' }).toBuffer({ resolveWithObject: true });
  await openStep(page, 'Export');
  await page.getByRole('radio', { name: 'TIFF' }).click();
  await page.getByRole('radio', { name: '16 bit' }).click();
  const same = await exportFile(page, 'TIFF');
  expect(same.name).toBe('filter-gallery-plumb.tif');
  expect(Buffer.compare((await read(same.file)).data, Buffer.from(samples.buffer))).toBe(0);
  expect((await sharp(same.file).metadata()).icc).toEqual((await sharp(tiff).metadata()).icc);
  await typeRoll(page, '3');
  const turned = await exportFile(page, 'TIFF');
  expect((await sharp(turned.file).metadata()).depth).toBe('ushort');
  const webp = await exportFile(page, 'WebP');
  expect(await sharp(webp.file).metadata()).toMatchObject({ format: 'webp', space: 'srgb' });
  await expect(page.getByText('The original has 16 bits')).toBeVisible();
});

test('deliveries: each picture in its own, each with its own crop, named by pattern, in one zip', async ({ page }) => {
  await openJob(page, [
    { name: 'water tower.png', buffer: await slippingHorizon(600, 400, 0) },
    { name: 'reservoir.png', buffer: await slippingHorizon(400, 600, 0) },
  ]);
  await openStep(page, 'Export');
  await page.getByLabel('Name', { exact: true }).fill('{number} {name} {delivery} {width}');
  await pick(page, 'Size', 'long edge');
  await page.getByLabel('Long edge, pixels').fill('300');
  await page.getByLabel('Long edge, pixels').press('Enter');
  await saveDelivery(page, 'web', 'as each picture is cropped');
  await page.getByRole('radio', { name: 'PNG' }).click();
  await saveDelivery(page, 'square', '1:1');
  await saveDelivery(page, 'wide', '16:9');
  // the square of this picture is moved to its left end; the picture's own crop stays
  await openStep(page, 'Crop');
  await page.getByRole('radio', { name: 'square' }).click();
  await page.locator('ap-stage .area').click({ position: { x: 20, y: 20 } });
  for (let k = 0; k < 10; k += 1) await page.keyboard.press('Shift+ArrowLeft');
  await page.getByRole('radio', { name: 'the picture’s' }).click();
  await expect(page.locator('ap-stage .delivery')).toHaveCount(2);
  const { crop, deliveries } = (await documentOf(page)) as unknown as {
    crop: object;
    deliveries: { rect?: Record<'x' | 'y' | 'width' | 'height', number> }[];
  };
  expect(crop).not.toHaveProperty('rect');
  // plane px about the picture's middle: moved by ten times ten
  const [x, y, width, height] = (['x', 'y', 'width', 'height'] as const).map((side) => Math.round(deliveries[1]?.rect?.[side] ?? NaN));
  expect([x, y, width, height, deliveries[0]?.rect, deliveries[2]?.rect]).toEqual([-300, -200, 400, 400, undefined, undefined]);
  // the second picture is taller than wide, and has the wide delivery alone
  await page.keyboard.press('PageDown');
  await expect(page.locator('h1')).toHaveText('reservoir.png');
  await openStep(page, 'Export');
  await page.getByRole('checkbox', { name: /^wide/ }).check();
  await page.getByRole('radio', { name: /the job/ }).click();
  await page.getByRole('radio', { name: 'by deliveries' }).click();
  await expect(page.getByText('2 pictures, 4 files.')).toBeVisible();
  const download = await exportNow(page);
  await expect(page.getByText('4 of 4 files written')).toBeVisible();
  const files = await zipOf(download);
  const sizes = await Promise.all(
    Object.entries(files).map(async ([name, bytes]) => {
      const { width, height, format } = await sharp(bytes).metadata();
      return [name, width, height, format];
    }),
  );
  expect(sizes.sort()).toEqual([
    ['001 water tower square 300.png', 300, 300, 'png'],
    ['001 water tower web 300.jpg', 300, 200, 'jpeg'],
    ['001 water tower wide 300.png', 300, 169, 'png'],
    ['002 reservoir wide 169.png', 169, 300, 'png'],
  ]);

  // ticked for all, for none, and for what is opened from now on; the count is said beforehand each time
  const more = async (delivery: string, what: string): Promise<void> => {
    await page.getByRole('button', { name: `More for ${delivery}` }).click();
    await page.getByRole('menuitem', { name: what }).click();
  };
  await more('square', 'For all pictures of this job');
  await expect(page.getByText('2 pictures, 5 files.')).toBeVisible();
  for (const delivery of ['square', 'wide']) await more(delivery, 'For none of them');
  await expect(page.getByText('2 pictures, 1 file; 1 has no delivery.')).toBeVisible();
  await more('wide', 'For new pictures too');
  const [saved] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save set' }).click()]);
  await more('wide', 'Remove');
  await expect(page.getByRole('checkbox', { name: /^wide/ })).toHaveCount(0);
  await page.locator('ap-export-deliveries input[type=file]').setInputFiles(await saved.path());
  await expect(page.getByText('3 deliveries read.')).toBeVisible();
  await page.locator('[aria-label="Contact sheet"]').click();
  await page
    .locator('header input[type=file]')
    .setInputFiles({ name: 'stair.png', mimeType: 'image/png', buffer: await slippingHorizon(200, 200, 0) });
  await page.getByRole('option', { name: 'stair.png' }).dblclick();
  await onBench(page);
  await openStep(page, 'Export');
  await expect(page.getByRole('checkbox', { name: /^wide/ })).toBeChecked();
  await expect(page.getByRole('checkbox', { name: /^web/ })).not.toBeChecked();
});

test('a file in sRGB, sharpened and no larger than asked, from an original in Display P3', async ({ page }) => {
  const noise = Buffer.from(Uint8Array.from({ length: 600 * 400 * 3 }, (_, k) => ((k * 2654435761) >>> 15) % 256));
  const original = await sharp(noise, { raw: { width: 600, height: 400, channels: 3 } })
    .withIccProfile('p3')
    .png()
    .toBuffer();
  await openPicture(page, 'gallery.png', original);
  await openStep(page, 'Export');
  await pick(page, 'Colour space', 'sRGB');
  await page.getByRole('radio', { name: 'screen', exact: true }).click();
  const free = await exportFile(page, 'JPEG');
  await page.getByLabel('At most, kB').fill('120');
  await page.getByLabel('At most, kB').press('Enter');
  const small = await exportFile(page, 'JPEG');
  await page.getByLabel('At most, kB').fill('');
  await page.getByLabel('At most, kB').press('Enter');
  const again = await exportFile(page, 'JPEG');
  expect(again.file.length).toBe(free.file.length);
  expect(free.file.length).toBeGreaterThan(120_000);
  expect(small.file.length).toBeLessThanOrEqual(120_000);
  for (const { file } of [free, small]) {
    const { icc, width, height } = await sharp(file).metadata();
    expect([width, height, icc?.toString('latin1').includes('sRGB')]).toEqual([600, 400, true]);
  }
});

test('AVIF and JPEG XL out of the browser as they come out of the command line’s codecs, and in again', async ({ page }) => {
  const original = await sharp(demoPicture('name-plate.jpg')).keepMetadata().resize(400).jpeg({ quality: 95 }).toBuffer();
  const { data } = await sharp(original).raw().toBuffer({ resolveWithObject: true });
  for (const kind of ['AVIF', 'JXL'] as const) {
    await openPicture(page, 'plate.jpg', original);
    await openStep(page, 'Export');
    await page.getByRole('radio', { name: kind }).click();
    await page.getByRole('radio', { name: 'without loss' }).click();
    const { name, file } = await exportFile(page, kind);
    expect(name).toBe(`plate-plumb.${kind.toLowerCase()}`);
    await page.goto('/');
    await openPicture(page, name, file);
    await openStep(page, 'Export');
    const again = await exportFile(page, 'PNG');
    // the picture's profile is sRGB, which is what a JPEG XL has without saying so
    const seen = await sharp(again.file, { ignoreIcc: true }).raw().toBuffer();
    const off = seen.reduce((most, v, k) => Math.max(most, Math.abs(v - data[k]!)), 0);
    expect(off, kind).toBeLessThanOrEqual(kind === 'AVIF' ? 0 : 1);
    await page.goto('/');
  }
});

test('the job into a folder: what is there is never overwritten, a picture that fails is named, the rest is done', async ({ page }) => {
  await page.addInitScript(() => {
    // the origin's own folder stands in for one that the user picks
    Object.assign(window, { showDirectoryPicker: () => navigator.storage.getDirectory() });
  });
  await openJob(page, [
    { name: 'a.png', buffer: await slippingHorizon(300, 200, 0) },
    { name: 'b.png', buffer: await slippingHorizon(300, 200, 0) },
    { name: 'a.jpg', buffer: demoPicture('name-plate.jpg') },
  ]);
  await page.evaluate(async () => {
    const folder = await navigator.storage.getDirectory();
    const file = await (await folder.getFileHandle('B-plumb.jpg', { create: true })).createWritable();
    await file.write('mine');
    await file.close();
    // the file of the last picture is lost
    const open = indexedDB.open('able-plumb');
    await new Promise((resolve) => (open.onsuccess = resolve));
    const store = (name: string) => open.result.transaction(name, 'readwrite').objectStore(name);
    const asked = store('pictures').getAll();
    await new Promise((resolve) => (asked.onsuccess = resolve));
    const lost = (asked.result as { id: string; name: string }[]).find((p) => p.name === 'a.jpg')!;
    await new Promise((resolve) => (store('originals').delete(lost.id).onsuccess = resolve));
  });
  await openStep(page, 'Export');
  await page.getByRole('radio', { name: /the job/ }).click();
  await page.getByRole('radio', { name: 'a folder' }).click();
  await page.getByRole('button', { name: 'Export', exact: true }).click();
  await expect(page.getByText('2 of 3 files written')).toBeVisible();
  await expect(page.getByRole('list', { name: 'Files that failed' })).toContainText(
    'a.jpg The file of a.jpg is no longer in this browser.',
  );
  const found = await page.evaluate(async () => {
    const folder = await navigator.storage.getDirectory();
    const names: [string, number][] = [];
    for await (const [name, handle] of folder as unknown as AsyncIterable<[string, FileSystemFileHandle]>)
      names.push([name, (await handle.getFile()).size]);
    return names.sort();
  });
  expect(found.map(([name]) => name)).toEqual(['B-plumb.jpg', 'a-plumb.jpg', 'b-plumb-2.jpg']);
  expect(found[0]![1]).toBe(4);
});

test('an export of many that is cancelled keeps what was written and ends at once', async ({ page }) => {
  const buffer = demoPicture('pump-hall-front.jpg');
  await openJob(
    page,
    Array.from({ length: 8 }, (_, i) => ({ name: `front-${i}.jpg`, buffer })),
  );
  await openStep(page, 'Export');
  await page.getByRole('radio', { name: /the job/ }).click();
  await page.getByRole('radio', { name: 'one zip' }).click();
  const download = page.waitForEvent('download', { timeout: 120_000 });
  await page.getByRole('button', { name: 'Export', exact: true }).click();
  // two may end at once, and the third is never told alone
  await expect(page.getByRole('status').filter({ hasText: /[3-6] of 8/ })).toBeVisible({ timeout: 60_000 });
  const started = Date.now();
  await page.getByRole('button', { name: 'Cancel' }).click();
  const said = page.getByText(/^\d of 8 files written, \d cancelled,/);
  await expect(said).toBeVisible();
  expect(Date.now() - started).toBeLessThan(1500);
  const [, written, cancelled] = (await said.innerText()).match(/^(\d) of 8 files written, (\d)/)!.map(Number) as [number, number, number];
  expect(written).toBeGreaterThanOrEqual(2);
  expect(written + cancelled).toBe(8);
  // of two at a time the later may be done first
  const names = Object.keys(await zipOf(await download));
  expect(names.length).toBe(written);
  const begun = Array.from({ length: written + 2 }, (_, i) => `front-${i}-plumb.jpg`);
  expect(begun).toEqual(expect.arrayContaining(names));
});
