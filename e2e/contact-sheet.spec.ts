import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { BlobReader, TextReader, Uint8ArrayWriter, ZipReader, ZipWriter, BlobWriter, type FileEntry } from '@zip.js/zip.js';
import sharp from 'sharp';
import type { Locator, Page } from '@playwright/test';
import { demoPicture, documentOf, expect, onBench, slippingHorizon, test, typeRoll, pick } from './support';

interface Named {
  readonly name: string;
  readonly buffer: Buffer;
}

/** Opens files as a job and goes to its contact sheet, where many come by themselves. */
async function sheetOf(page: Page, files: readonly Named[]): Promise<void> {
  await page.goto('/');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles(files.map(({ name, buffer }) => ({ name, mimeType: 'image/png', buffer })));
  if (files.length < 12) {
    await page.waitForURL('**/bench/**', { timeout: 60_000 });
    await page.getByRole('link', { name: 'Contact sheet' }).click();
  } else await page.waitForURL('**/job/**', { timeout: 60_000 });
  await expect(page.locator('ap-sheet-cell').first()).toBeVisible();
}

const cell = (page: Page, name: string): Locator => page.locator('ap-sheet-cell').filter({ hasText: name });
const exposure = async (brightness: number): Promise<Buffer> =>
  sharp(await slippingHorizon(600, 400, 2))
    .linear(brightness, 0)
    .png()
    .toBuffer();

async function zipFiles(path: string): Promise<Map<string, Uint8Array>> {
  const entries = await new ZipReader(new BlobReader(new Blob([readFileSync(path)]))).getEntries();
  return new Map(
    await Promise.all(entries.map(async (e) => [e.filename, await (e as FileEntry).getData(new Uint8ArrayWriter())] as const)),
  );
}

test('a folder and a file are dropped together: all pictures come in, hidden files stay out', async ({ page }, info) => {
  const folder = info.outputPath('Filter gallery');
  mkdirSync(folder, { recursive: true });
  const put = (name: string, bytes: Buffer): string => {
    const path = join(folder, '..', name);
    writeFileSync(path, bytes);
    return path;
  };
  for (const name of ['bay-2.png', 'bay-1.png']) put(`Filter gallery/${name}`, await slippingHorizon(300, 200, 2));
  put('Filter gallery/.index', Buffer.from('of the disk'));
  const files = [put('tower.png', await slippingHorizon(200, 300, 2)), folder];
  await page.goto('/');
  await expect(page.locator('ap-start')).toBeVisible();
  const session = await page.context().newCDPSession(page);
  for (const type of ['dragEnter', 'dragOver', 'drop'] as const)
    await session.send('Input.dispatchDragEvent', { type, x: 600, y: 400, data: { items: [], files, dragOperationsMask: 1 } });
  await onBench(page);
  await page.getByRole('link', { name: 'Contact sheet' }).click();
  await expect(page.locator('ap-sheet-cell')).toHaveCount(3);
  for (const name of ['bay-1.png', 'bay-2.png', 'tower.png']) await expect(cell(page, name)).toBeVisible();
});

test('a stance set for one picture is copied to those like it; one of other proportions is left and said', async ({ page }) => {
  await sheetOf(page, [
    { name: 'a.png', buffer: await slippingHorizon(600, 400, 2) },
    { name: 'b.png', buffer: await slippingHorizon(1200, 800, 2) },
    { name: 'tall.png', buffer: await slippingHorizon(400, 600, 2) },
  ]);
  await cell(page, 'a.png').dblclick();
  await onBench(page);
  await typeRoll(page, '-2');
  await page.getByRole('link', { name: 'Contact sheet' }).click();
  await expect(cell(page, 'a.png')).toContainText('set, without lines');
  await expect(cell(page, 'b.png')).toContainText('untouched');
  // by keyboard: from the first picture to the end, and all of them
  await cell(page, 'a.png').focus();
  await page.keyboard.press('Space');
  await page.keyboard.press('Control+a');
  await expect(page.getByRole('heading', { name: '3 selected' })).toBeVisible();
  await page.getByRole('button', { name: 'Copy to 2 pictures' }).click();
  await expect(page.getByText(/copied to 1 picture; 1 was left as before: .* other proportions/)).toBeVisible();
  await expect(cell(page, 'b.png')).toContainText('set, without lines');
  await pick(page, 'Show', 'untouched');
  await expect(page.locator('ap-sheet-cell')).toHaveCount(1);
  await pick(page, 'Show', 'all');
  // the copy is one undo step of its own picture
  await cell(page, 'b.png').dblclick();
  await onBench(page);
  expect((await documentOf(page))['stance']).toMatchObject({ from: 'hand', adjust: { roll: -2 } });
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await documentOf(page))['stance']).toMatchObject({ adjust: { roll: 0 } });
});

test('linked exposures have one correction, and their exports lie on each other to the pixel', async ({ page }) => {
  await sheetOf(page, [
    { name: 'dark.png', buffer: await exposure(0.5) },
    { name: 'light.png', buffer: await exposure(1) },
  ]);
  await cell(page, 'light.png').click();
  await cell(page, 'dark.png').click({ modifiers: ['Control'] });
  await page.getByRole('button', { name: 'Link', exact: true }).click();
  await expect(page.getByText('2 pictures have one correction now, that of light.png')).toBeVisible();
  await cell(page, 'dark.png').dblclick();
  await onBench(page);
  await typeRoll(page, '-3.3');
  const { picture: _dark, ...dark } = await documentOf(page);
  await page.keyboard.press('PageDown');
  await expect(page.locator('h1')).toHaveText('light.png');
  const { picture: _light, ...light } = await documentOf(page);
  expect(light).toEqual(dark);
  await page.getByRole('link', { name: 'Contact sheet' }).click();
  await page.locator('ap-sheet-cell').first().focus();
  await page.keyboard.press('Control+a');
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Export them' }).click()]);
  const files = await zipFiles(await download.path());
  const [first, second] = await Promise.all(
    ['dark-plumb.jpg', 'light-plumb.jpg'].map((name) => sharp(files.get(name)).greyscale().raw().toBuffer({ resolveWithObject: true })),
  );
  expect(first!.info).toEqual(second!.info);
  // the dark one is half as bright everywhere, edges too: nothing has moved
  let worst = 0;
  for (let k = 0; k < first!.data.length; k += 1) worst = Math.max(worst, Math.abs(2 * first!.data[k]! - second!.data[k]!));
  expect(worst).toBeLessThan(16);
  // unlinked, each goes its own way
  await page.getByRole('button', { name: 'Unlink' }).click();
  await expect(page.getByText('Unlinked: each picture keeps the correction it has')).toBeVisible();
  await cell(page, 'dark.png').dblclick();
  await onBench(page);
  await typeRoll(page, '1');
  await page.keyboard.press('PageDown');
  await expect(page.locator('h1')).toHaveText('light.png');
  expect(((await documentOf(page))['stance'] as { adjust: object }).adjust).toMatchObject({ roll: -3.3 });
});

test('two hundred pictures are seen coming in: few are drawn at a time, all can be reached, turned and removed', async ({ page }) => {
  const buffer = await slippingHorizon(120, 80, 1);
  await sheetOf(
    page,
    Array.from({ length: 200 }, (_, i) => ({ name: `sheet-${String(i + 1).padStart(3, '0')}.png`, buffer })),
  );
  await expect(page.getByText(/^Opening \d+ of 200/)).toBeVisible();
  await expect(page.getByText('200 pictures', { exact: true })).toBeVisible();
  expect(await page.locator('ap-sheet-cell').count()).toBeLessThan(60);
  await page.locator('ap-sheet-cell').first().focus();
  await page.keyboard.press('End');
  await expect(cell(page, 'sheet-200.png')).toBeFocused();
  expect(await page.locator('ap-sheet-cell').count()).toBeLessThan(60);
  const shape = (): Promise<string> =>
    cell(page, 'sheet-200.png')
      .locator('canvas')
      .evaluate((c: HTMLCanvasElement) => `${c.width > c.height}`);
  await expect(cell(page, 'sheet-200.png').locator('canvas')).not.toHaveClass(/empty/);
  expect(await shape()).toBe('true');
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Quarter turn to the right' }).click();
  await expect.poll(shape).toBe('false');
  await page.getByRole('button', { name: 'Remove from the job' }).click();
  await page.getByRole('button', { name: 'Keep it' }).click();
  await page.keyboard.press('Escape');
  await cell(page, 'sheet-200.png').click();
  await page.getByRole('button', { name: 'Remove from the job' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Remove from the job' }).click();
  await expect(page.getByText('199 pictures', { exact: true })).toBeVisible();
  // what is committed is there after the tab was ended in the middle
  await page.reload();
  await expect(page.getByText('199 pictures', { exact: true })).toBeVisible();
  await pick(page, 'Show', 'set');
  await expect(page.getByText('199 pictures', { exact: true })).toBeVisible();
});

test('a job saved as a file opens to the same job; a file that was tampered with is refused whole', async ({ page }) => {
  const plate = demoPicture('name-plate.jpg');
  await sheetOf(page, [
    { name: 'name-plate.jpg', buffer: plate },
    { name: 'reservoir.png', buffer: await slippingHorizon(300, 200, 1) },
  ]);
  await cell(page, 'name-plate.jpg').dblclick();
  await onBench(page);
  await typeRoll(page, '2.5');
  const before = await documentOf(page);
  await page.locator('a.home').click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save', exact: true }).click()]);
  expect(download.suggestedFilename()).toMatch(/\.job\.zip$/);
  const bytes = readFileSync(await download.path());
  const files = await zipFiles(await download.path());
  expect(Buffer.compare(Buffer.from(files.get('pictures/name-plate.jpg')!), plate)).toBe(0);

  // another machine: nothing is there yet
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await page.getByRole('button', { name: 'Remove the job' }).click();
  await expect(page.locator('.card')).toHaveCount(0);
  const choose = (buffer: Buffer): Promise<void> =>
    page.locator('input[type=file]').first().setInputFiles({ name: 'tarnbeck.job.zip', mimeType: 'application/zip', buffer });
  const tampered = new ZipWriter(new BlobWriter());
  for (const [name, data] of files)
    await tampered.add(
      name,
      name === 'pictures/name-plate.jpg' ? new TextReader('something else') : new BlobReader(new Blob([data as BlobPart])),
    );
  await choose(Buffer.from(await (await tampered.close()).arrayBuffer()));
  await expect(page.getByRole('alert')).toContainText('Nothing of it was kept; your own jobs are as they were.');
  await expect(page.locator('.card')).toHaveCount(0);

  await choose(bytes);
  await expect(page.locator('.card')).toContainText('2 pictures');
  await expect(page.locator('.work')).toHaveCount(0);
  await page.locator('.thumbs').click();
  await onBench(page);
  await expect(page.locator('h1')).toHaveText('name-plate.jpg');
  expect(await documentOf(page)).toEqual(before);
});
