import { execFile } from 'node:child_process';
import { copyFileSync, mkdirSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Page } from '@playwright/test';
import { inBrowsers, largestRendererMB, longestTaskMs, watchTasks } from './browser-rows';
import type { Rows } from './timing';

/** So many pictures of six megapixels are asked what they say, on all cores. */
const PICTURES = 200;
const OF = ['filter-gallery', 'stair', 'name-plate'];

/** Finding in a whole job: on the command line, and from the contact sheet in Chromium; the application must be built. */
export async function manyRows(rows: Rows, plumb: string, root: string): Promise<void> {
  const folder = join(root, '.cache/bench/many');
  mkdirSync(folder, { recursive: true });
  const files = Array.from({ length: PICTURES }, (_, i) => join(folder, `${OF[i % OF.length] as string}-${i}.jpg`));
  const there = readdirSync(folder).length;
  if (there < PICTURES) files.forEach((file, i) => copyFileSync(join(root, `demo/job/${OF[i % OF.length] as string}.jpg`), file));

  const begun = performance.now();
  await promisify(execFile)(process.execPath, [plumb, 'batch', '--suggest', 'stand-plumb', '--sure', '0.15', ...files], {
    maxBuffer: 1e9,
  });
  rows[`finding: ${PICTURES} pictures of 6 megapixels on the command line, s`] = (performance.now() - begun) / 1000;

  await inBrowsers(root, async (withPage) => {
    await withPage(null, (page) => inAndOut(rows, page, files));
    await withPage(files[0] as string, async (page) => {
      await page.getByRole('link', { name: /contact sheet/i }).click();
      await page.locator('input[type=file]').first().setInputFiles(files.slice(1));
      await page.getByText(`${PICTURES} pictures`, { exact: true }).waitFor({ timeout: 600_000 });
      await page.locator('.work').waitFor({ state: 'detached', timeout: 600_000 });
      await page.keyboard.press('Control+a');
      await watchTasks(page);
      let peakMB = 0;
      const looking = setInterval(() => (peakMB = Math.max(peakMB, largestRendererMB())), 200);
      const started = performance.now();
      await page.getByRole('button', { name: 'Find lines' }).click();
      await page.getByText(/\d+ sure, \d+ not/).waitFor({ timeout: 600_000 });
      await page.locator('mat-progress-bar').waitFor({ state: 'detached', timeout: 600_000 });
      rows[`finding: ${PICTURES} pictures of 6 megapixels in the browser, s`] = (performance.now() - started) / 1000;
      clearInterval(looking);
      rows['finding: longest task of the page meanwhile, ms (0: none over 50)'] = await longestTaskMs(page);
      rows['finding: peak memory of the renderer meanwhile, MB'] = peakMB;
    });
  });
}

/** When the first small picture is there, as the page sees it: whoever asks from outside asks twice a second. */
const firstSmallPicture = (page: Page): Promise<number> =>
  page.evaluate(
    () =>
      new Promise<number>((resolve) => {
        const watcher = new MutationObserver(() => {
          if (!document.querySelector('ap-sheet-cell canvas:not(.empty)')) return;
          watcher.disconnect();
          requestAnimationFrame(() => setTimeout(() => resolve(Date.now())));
        });
        watcher.observe(document.body, { subtree: true, childList: true, attributes: true });
      }),
  );

/** Many files put on Start, until they are seen; then all of them exported into one zip. */
async function inAndOut(rows: Rows, page: Page, files: readonly string[]): Promise<void> {
  const what = `${PICTURES} pictures of 6 megapixels`;
  await watchTasks(page);
  // whoever drops files has seen the page for a moment
  await page.waitForTimeout(1000);
  const seen = firstSmallPicture(page);
  const begun = performance.now();
  const begunAt = Date.now();
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([...files]);
  rows[`${what} dropped on Start: first small picture, s`] = ((await seen) - begunAt) / 1000;
  await page.getByText(`${PICTURES} pictures`, { exact: true }).waitFor({ timeout: 600_000 });
  await page.locator('.work').waitFor({ state: 'detached', timeout: 600_000 });
  rows[`${what} dropped on Start: all of them in, s`] = (performance.now() - begun) / 1000;
  rows[`${what} dropped on Start: longest task of the page meanwhile, ms (0: none over 50)`] = await longestTaskMs(page);
  await page.getByRole('option').first().dblclick();
  await page.waitForURL('**/bench/**');
  await page.locator('ap-string').getByText('Export', { exact: true }).click();
  await page.getByRole('radio', { name: /the job/ }).click();
  await page.getByRole('radio', { name: 'one zip' }).click();
  await page.getByText(`${PICTURES} pictures, ${PICTURES} files.`).waitFor();
  const started = performance.now();
  const download = page.waitForEvent('download', { timeout: 900_000 });
  await page.getByRole('button', { name: 'Export', exact: true }).click();
  await download;
  rows[`${what} exported in the browser, JPEG with full colour, s`] = (performance.now() - started) / 1000;
}
