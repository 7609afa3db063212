import { cpSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { listen } from '@able-plumb/server';
import { dragLine, expect, exportFile, horizonSlopeDeg, onBench, onScreen, slippingHorizon, test } from './support';

const ROOT = new URL('../', import.meta.url).pathname;

test.use({ serviceWorkers: 'allow' });

test('once seen, it works without its server: a picture is opened, corrected and exported, the demo job too; a newer version waits', async ({
  page,
}) => {
  const app = join(mkdtempSync(join(tmpdir(), 'plumb-offline-')), 'app');
  cpSync(join(ROOT, 'dist/app/browser'), app, { recursive: true });
  const folders = { app, demo: join(ROOT, 'demo/job') };
  const first = await listen(folders, 0);
  const port = Number(new URL(first.address).port);
  await page.goto(first.address);
  // the service worker has taken everything in once it answers for the last of the demo job's pictures
  await page.evaluate(async () => {
    await navigator.serviceWorker.ready;
    const there = async (): Promise<boolean> => {
      const caches_ = await Promise.all(
        (await caches.keys()).map(async (name) => (await caches.open(name)).match('/demo-job/water-tower.jpg')),
      );
      return caches_.some((response) => response !== undefined);
    };
    while (!(await there())) await new Promise((resolve) => setTimeout(resolve, 200));
  });
  first.server.closeAllConnections();
  await new Promise((resolve) => first.server.close(resolve));

  await page.reload();
  await expect(page.locator('h1')).toHaveText('Make the picture true.');
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
  const [width, height, slip] = [900, 600, 2.1];
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name: 'sea.png', mimeType: 'image/png', buffer: await slippingHorizon(width, height, slip) });
  await onBench(page);
  const at = await onScreen(page, width);
  const rise = (x: number): number => height / 2 - (x - width / 2) * Math.tan((slip * Math.PI) / 180);
  await dragLine(page, at([80, rise(80)]), at([820, rise(820)]));
  const { file } = await exportFile(page, 'PNG');
  expect(Math.abs(await horizonSlopeDeg(file))).toBeLessThan(0.05);
  await page.locator('.home').click();
  await page.getByRole('button', { name: 'Open the demo job' }).click();
  await expect(page.locator('.card').first()).toContainText('9 pictures', { timeout: 60_000 });

  // the server comes back with a newer version
  const manifest = join(app, 'ngsw.json');
  writeFileSync(manifest, JSON.stringify({ ...(JSON.parse(readFileSync(manifest, 'utf8')) as object), timestamp: Date.now() }));
  const second = await listen(folders, port);
  await page.evaluate(() => navigator.serviceWorker.controller?.postMessage({ action: 'CHECK_FOR_UPDATES', nonce: 1 }));
  await expect(page.getByText('A new version of Able Plumb is ready')).toBeVisible();
  await Promise.all([page.waitForEvent('load'), page.getByRole('button', { name: 'Load it' }).click()]);
  await expect(page.locator('.card').first()).toContainText('9 pictures');
  second.server.closeAllConnections();
  await new Promise((resolve) => second.server.close(resolve));
});
