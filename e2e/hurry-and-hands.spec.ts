import type { CDPSession, Page } from '@playwright/test';
import { demoPicture, documentOf, dragLine, expect, onBench, onScreen, slippingHorizon, test } from './support';

type P = readonly [number, number];
interface Reference {
  readonly id: string;
  readonly a: P;
  readonly b: P;
}
const referencesOf = async (page: Page): Promise<readonly Reference[]> =>
  ((await documentOf(page)) as { references: readonly Reference[] }).references;

const png = async (name: string, slip: number) => ({ name, mimeType: 'image/png', buffer: await slippingHorizon(1200, 800, slip) });

async function openTwo(page: Page): Promise<{ x: number; y: number; width: number; height: number }> {
  await page.goto('/');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([await png('one.png', 2), await png('two.png', -3)]);
  await onBench(page);
  return (await page.locator('ap-stage .area').boundingBox())!;
}

test('whoever does not wait: lines drawn and pictures changed before the magnet has answered', async ({ page }) => {
  const area = await openTwo(page);
  const at = (x: number, y: number): P => [area.x + area.width * x, area.y + area.height * y];
  const onPicture = await onScreen(page, 1200);
  // a line beside the horizon, and the next picture in the same breath
  await dragLine(page, onPicture([300, 413]), onPicture([900, 392]));
  await page.keyboard.press('PageDown');
  await expect(page.locator('h1')).toHaveText('two.png');
  await onBench(page);
  expect(await referencesOf(page)).toEqual([]);
  // six lines, one after the other without a pause
  for (const y of [0.3, 0.36, 0.42, 0.58, 0.64, 0.7]) await dragLine(page, at(0.3, y), at(0.7, y));
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(6);
  await page.keyboard.press('PageUp');
  await expect(page.locator('h1')).toHaveText('one.png');
  await onBench(page);
  const [line] = await referencesOf(page);
  // it has settled on the horizon, in its own picture
  const slope = (Math.atan2(line!.a[1] - line!.b[1], line!.b[0] - line!.a[0]) * 180) / Math.PI;
  expect(slope).toBeCloseTo(2, 1);
  // an end that is held when the picture changes stays where it was
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  const ring = (await page.locator('g[ap-line] .ring').last().boundingBox())!;
  await page.mouse.move(ring.x + ring.width / 2, ring.y + ring.height / 2);
  await page.mouse.down();
  await page.mouse.move(ring.x + 30, ring.y + 40, { steps: 3 });
  await page.keyboard.press('PageDown');
  await expect(page.locator('h1')).toHaveText('two.png');
  await page.mouse.move(ring.x + 60, ring.y + 60);
  await page.mouse.up();
  await onBench(page);
  expect((await referencesOf(page)).length).toBe(6);
  await page.keyboard.press('PageUp');
  await expect(page.locator('h1')).toHaveText('one.png');
  await onBench(page);
  expect(await referencesOf(page)).toEqual([line]);
});

test('one hand at a time: a second pointer, a touch that the system takes away, a wheel while an end is held, a key held while the window goes', async ({
  browser,
}) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, hasTouch: true });
  const page = await context.newPage();
  const area = await openTwo(page);
  const at = (x: number, y: number): { x: number; y: number } => ({ x: area.x + area.width * x, y: area.y + area.height * y });
  const session: CDPSession = await context.newCDPSession(page);
  const touch = (type: string, ...points: readonly { x: number; y: number; id: number }[]): Promise<unknown> =>
    session.send('Input.dispatchTouchEvent', { type: type as 'touchStart', touchPoints: points as never });
  const first = (x: number, y: number): { x: number; y: number; id: number } => ({ ...at(x, y), id: 1 });
  await touch('touchStart', first(0.3, 0.3));
  await touch('touchMove', first(0.5, 0.31));
  // another pointer presses and lets go elsewhere: it is not the one that draws
  await page.mouse.click(at(0.6, 0.8).x, at(0.6, 0.8).y);
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(0);
  await touch('touchMove', first(0.7, 0.3));
  await touch('touchEnd');
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(1);
  const [line] = await referencesOf(page);
  expect(Math.abs(line!.b[0] - line!.a[0])).toBeGreaterThan(400);
  // taken away by the system: nothing stays in the hand, a later tap is the first end of a line of its own
  await touch('touchStart', first(0.3, 0.7));
  await touch('touchMove', first(0.45, 0.72));
  await expect(page.locator('g.tag')).toHaveCount(1);
  await touch('touchCancel');
  await expect(page.locator('g.tag')).toHaveCount(0);
  await page.mouse.click(at(0.7, 0.7).x, at(0.7, 0.7).y);
  await page.mouse.move(at(0.6, 0.72).x, at(0.6, 0.72).y);
  await expect(page.locator('g.tag')).toHaveCount(1);
  await page.keyboard.press('Escape');
  await expect(page.locator('g.tag')).toHaveCount(0);
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(1);
  // the wheel while an end is held: the end stays under the pointer
  await page.keyboard.press('n');
  const ring = (await page.locator('g[ap-line] .ring').last().boundingBox())!;
  const [x, y] = [ring.x + ring.width / 2, ring.y + ring.height / 2];
  await page.keyboard.press('Escape');
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 20, y + 10, { steps: 2 });
  await page.mouse.wheel(0, -600);
  await page.mouse.move(x - 40, y + 20, { steps: 2 });
  const end = (await page.locator('g[ap-line] .ring').last().boundingBox())!;
  expect(Math.hypot(end.x + end.width / 2 - (x - 40), end.y + end.height / 2 - (y + 20))).toBeLessThan(2);
  await page.mouse.up();
  await expect.poll(async () => (await page.locator('path.outline').boundingBox())!.width).toBeGreaterThan(area.width);
  // a key that is held while the window loses the keyboard is not held any more
  await page.keyboard.press('0');
  await expect.poll(async () => (await page.locator('path.outline').boundingBox())!.width).toBeLessThan(area.width);
  await page.keyboard.down('n');
  await page.evaluate(() => window.dispatchEvent(new Event('blur')));
  await page.keyboard.press('Control+z');
  const onPicture = await onScreen(page, 1200);
  await dragLine(page, onPicture([300, 413]), onPicture([900, 392]));
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(2);
  const settled = (await referencesOf(page))[1]!;
  expect((Math.atan2(settled.a[1] - settled.b[1], settled.b[0] - settled.a[0]) * 180) / Math.PI).toBeCloseTo(2, 1);
  await context.close();
});

test('an import ends while another picture is worked on: whoever is there stays there', async ({ page }) => {
  await openTwo(page);
  const working = page.url();
  await page.locator('a.home').click();
  const many = await Promise.all(Array.from({ length: 11 }, (_, i) => png(`more-${i}.png`, i % 6)));
  await page.locator('input[type=file]').first().setInputFiles(many);
  // at once: an import that has ended by then opens its own pictures
  await page
    .locator('.thumbs')
    .last()
    .evaluate((card: HTMLElement) => card.click());
  await onBench(page);
  await expect(page.locator('footer .work')).toHaveCount(0);
  expect(page.url()).toBe(working);
  await page.locator('a.home').click();
  await expect(page.locator('.card')).toHaveCount(2);
  await expect(page.locator('.card').first()).toContainText('11 pictures');
});

test('a bad job file among pictures is told, and the pictures are taken in', async ({ page }) => {
  await page.goto('/');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([{ name: 'old.job.zip', mimeType: 'application/zip', buffer: Buffer.from('no zip at all') }, await png('one.png', 1)]);
  await expect(page.locator('.card')).toContainText('1 picture');
  await expect(page.getByRole('alert')).toContainText('old.job.zip was not opened.');
});

test('without storage, or with one that is newer, a sentence says so, and what is done can be saved as a file', async ({ browser }) => {
  for (const newer of [false, true]) {
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    const page = await context.newPage();
    if (newer) {
      await page.goto('/demo-job/index.json');
      await page.evaluate(async () => {
        const open = indexedDB.open('able-plumb', 99);
        open.onupgradeneeded = () => open.result.createObjectStore('of the future').put('kept', 'here');
        await new Promise((resolve) => (open.onsuccess = resolve));
        open.result.close();
      });
    } else
      await page.addInitScript(() => Object.defineProperty(window, 'indexedDB', { value: undefined, configurable: true, writable: true }));
    await page.goto('/');
    await expect(page.locator('ap-notices')).toContainText(newer ? 'kept by a newer Able Plumb' : 'storage cannot be used');
    await expect(page.locator('ap-notices')).toContainText('lasts until this page is closed');
    await page.getByRole('button', { name: 'Understood' }).click();
    await page
      .locator('input[type=file]')
      .first()
      .setInputFiles({ name: 'plate.jpg', mimeType: 'image/jpeg', buffer: demoPicture('name-plate.jpg') });
    await onBench(page);
    await page.keyboard.press('.');
    await expect(page.locator('.saved')).toHaveText('saved');
    await page.locator('a.home').click();
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save' }).click()]);
    expect(download.suggestedFilename()).toMatch(/\.job\.zip$/);
    if (newer) {
      const kept = await page.evaluate(async () => {
        const real = await new Promise<IDBDatabase>((resolve) => {
          const frame = document.createElement('iframe');
          document.body.append(frame);
          const open = frame.contentWindow!.indexedDB.open('able-plumb', 99);
          open.onsuccess = () => resolve(open.result);
        });
        const request = real.transaction('of the future').objectStore('of the future').get('here');
        await new Promise((resolve) => (request.onsuccess = resolve));
        return request.result as string;
      });
      expect(kept).toBe('kept');
    }
    await context.close();
  }
});

test('two tabs with one job: the second follows and takes over; a newer version is not kept waiting', async ({ browser }) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const one = await context.newPage();
  const area = await openTwo(one);
  const two = await context.newPage();
  await two.goto(one.url());
  await onBench(two);
  const note = (page: Page) => page.locator('ap-notices').getByText('being worked on in another tab');
  await expect(note(two)).toBeVisible();
  await expect(note(one)).toHaveCount(0);
  const at = (x: number, y: number): P => [area.x + area.width * x, area.y + area.height * y];
  // here nothing can be drawn; what is drawn there is seen here
  await dragLine(two, at(0.25, 0.53), at(0.75, 0.5));
  await dragLine(one, at(0.25, 0.53), at(0.75, 0.5));
  await expect(one.locator('ap-references-step tbody tr')).toHaveCount(1);
  await expect(two.locator('ap-references-step tbody tr')).toHaveCount(1);
  await two.getByRole('button', { name: 'Work on it here' }).click();
  await expect(note(one)).toBeVisible();
  await expect(note(two)).toHaveCount(0);
  await dragLine(two, at(0.3, 0.3), at(0.7, 0.31));
  await expect(one.locator('ap-references-step tbody tr')).toHaveCount(2);
  expect((await referencesOf(two)).length).toBe(2);
  await two.close();
  await expect(note(one)).toHaveCount(0);
  // a newer application opens its own version of the shelf
  const newer = await context.newPage();
  await newer.goto('/demo-job/index.json');
  await newer.evaluate(async () => {
    const open = indexedDB.open('able-plumb', 98);
    await new Promise((resolve, reject) => {
      open.onsuccess = resolve;
      setTimeout(() => reject(new Error('kept waiting')), 5000);
    });
    open.result.close();
  });
  await expect(one.locator('ap-notices')).toContainText('A newer Able Plumb was opened in another tab');
  await context.close();
});
