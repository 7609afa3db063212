import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Page } from '@playwright/test';
import sharp from 'sharp';
import { slopeDeg, toPlane, type Warp } from '@able-plumb/core';
import {
  demoPicture,
  demoTruth,
  documentOf,
  drawEdges,
  exportByKeys,
  exportFile,
  expect,
  openDemoPicture,
  openStep,
  openPicture,
  planeOnScreen,
  tabTo,
  test,
  typeRoll,
  warpOf,
} from './support';

type P = [number, number];
const root = fileURLToPath(new URL('..', import.meta.url));
const plate = demoTruth('name-plate') as ReturnType<typeof demoTruth> & { sunk: { a: P; b: P }[] };
const kerb = plate.sunk[0]!;

/** What `plumb apply` makes of the document on the bench. */
async function applied(page: Page, picture: string): Promise<Buffer> {
  const folder = mkdtempSync(join(tmpdir(), 'plumb-e2e-'));
  const out = join(folder, 'a.png');
  writeFileSync(join(folder, 'c.json'), JSON.stringify(await documentOf(page)));
  execFileSync(process.execPath, ['scripts/plumb.mjs', 'apply', join(folder, 'c.json'), join(root, 'demo/job', picture), '--out', out], {
    cwd: root,
  });
  return readFileSync(out);
}

/** Rows of the greatest change of tone downwards along the kerb's upper arris in a file, by its column. */
async function kerbInFile(file: Buffer, warp: Warp): Promise<P[]> {
  const { data, info } = await sharp(file).greyscale().raw().toBuffer({ resolveWithObject: true });
  const [a, b] = [warp.toOutput(...kerb.a)!, warp.toOutput(...kerb.b)!];
  const found: P[] = [];
  for (let x = Math.round(a[0]) + 30; x < b[0] - 30; x += 6) {
    const y0 = a[1] + ((b[1] - a[1]) * (x - a[0])) / (b[0] - a[0]);
    const tone = (y: number): number => {
      let sum = 0;
      for (let i = -6; i <= 6; i += 1) sum += data[(y * info.width + x + i) * info.channels]!;
      return sum / 13;
    };
    // brick in the shade above, stone in the sun below: where it is half way
    const [above, below] = [tone(Math.round(y0) - 9), tone(Math.round(y0) + 9)];
    for (let y = Math.round(y0) - 8; y < y0 + 8; y += 1) {
      const [p, q] = [tone(y), tone(y + 1)];
      const half = (above + below) / 2;
      if (below - above > 12 && p <= half && q > half) {
        found.push([x, y + (half - p) / (q - p)]);
        break;
      }
    }
  }
  return found;
}

/** Slope of the line through points, degrees. */
function slopeOf(points: readonly P[]): number {
  const mean = (k: 0 | 1): number => points.reduce((sum, p) => sum + p[k], 0) / points.length;
  const [mx, my] = [mean(0), mean(1)];
  const slope = points.reduce((sum, [x, y]) => sum + (x - mx) * (y - my), 0) / points.reduce((sum, [x]) => sum + (x - mx) ** 2, 0);
  return (Math.atan(slope) * 180) / Math.PI;
}

test('a kerb that stays off comes level by a line in a shim, the wall above it stays to the bit', async ({ page }) => {
  await openPicture(page, 'name-plate.jpg', demoPicture('name-plate.jpg'));
  await drawEdges(page, plate, ['plate, left', 'plate, right', 'plate, top', 'plate, bottom']);
  // the whole kerb in the file, and the file the same whatever becomes of the picture's border
  await openStep(page, 'Crop');
  await page.getByRole('radio', { name: /frame.*edges kept/ }).click();
  const before = await warpOf(page);
  const [a, b] = [toPlane(before.warp, kerb.a) as P, toPlane(before.warp, kerb.b) as P];
  expect(Math.abs(slopeDeg(a, b))).toBeGreaterThan(3.5);
  const plain = await exportFile(page, 'PNG');
  expect(Math.abs(slopeOf(await kerbInFile(plain.file, before.warp)))).toBeGreaterThan(3);
  await openStep(page, 'Ease');
  await page.keyboard.press('a');
  const at = await planeOnScreen(page, before.warp);
  const drag = async (p: P, q: P): Promise<void> => {
    await page.mouse.move(...at(p));
    await page.mouse.down();
    await page.mouse.move(...at(q), { steps: 5 });
    await page.mouse.up();
  };
  await drag([a[0] - 120, a[1] - 60], [b[0] + 120, b[1] + 90]);
  await expect(page.locator('ap-ease-shims .reads')).toHaveText('Shim 1');
  await page.getByRole('button', { name: 'Line comes true' }).click();
  await drag(a, b);
  await expect(page.locator('ap-ease-shims small', { hasText: 'off under 0.1 px' })).toBeVisible();
  const after = await warpOf(page);
  const [box] = after.warp.shimBoxes;
  const { file } = await exportFile(page, 'PNG');
  // in the file's own pixels
  const arris = await kerbInFile(file, after.warp);
  expect(arris.length).toBeGreaterThan(60);
  expect(Math.abs(slopeOf(arris))).toBeLessThan(0.1);
  expect(Math.abs(after.warp.toOutput(...kerb.a)![1] - after.warp.toOutput(...kerb.b)![1])).toBeLessThan(2);
  const [p, q] = await Promise.all([plain.file, file].map((f) => sharp(f).raw().toBuffer({ resolveWithObject: true })));
  expect(p!.info.width).toBe(q!.info.width);
  let outside = 0;
  for (let k = 0; k < p!.data.length; k += 1) {
    const pixel = Math.floor(k / p!.info.channels);
    const [x, y] = [(pixel % p!.info.width) + 0.5, Math.floor(pixel / p!.info.width) + 0.5];
    const within = x > box!.x && y > box!.y && x < box!.x + box!.width && y < box!.y + box!.height;
    if (!within && p!.data[k] !== q!.data[k]) outside += 1;
  }
  expect(outside).toBe(0);
  // the Check page tells of it
  await openStep(page, 'Check');
  const [check] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: /Save check/ }).click()]);
  expect(readFileSync(await check.path()).toString()).toContain('one part was moved by a shim');
});

test('by keys alone a shim is drawn, its net made finer, a crossing moved to the limit and another nailed', async ({ page }) => {
  await openPicture(page, 'name-plate.jpg', demoPicture('name-plate.jpg'));
  await page.keyboard.press('4');
  await page.keyboard.press('a');
  await page.keyboard.press('Enter');
  for (let i = 0; i < 4; i += 1) {
    await page.keyboard.press('Control+ArrowRight');
    await page.keyboard.press('Control+ArrowDown');
  }
  await page.keyboard.press('Enter');
  await expect(page.locator('ap-ease-shims .reads')).toHaveText('Shim 1');
  await page.keyboard.press(']');
  await expect(page.getByLabel('Net', { exact: true })).toHaveValue('7');
  for (let i = 0; i < 25; i += 1) await page.keyboard.press('e');
  for (let i = 0; i < 12; i += 1) await page.keyboard.press('Shift+ArrowRight');
  for (let i = 0; i < 6; i += 1) await page.keyboard.press('Control+ArrowRight');
  await expect(page.getByText('It stops here: more would fold the picture.')).toBeVisible();
  await page.keyboard.press('e');
  await page.keyboard.press('o');
  const { correction, warp } = await warpOf(page);
  const [shim] = correction.ease.shims;
  expect(shim!.holds.map((h) => h.nail)).toEqual([false, true]);
  const [placed] = warp.shimmed!.shims;
  expect(placed!.share).toBeGreaterThan(0.999);
  expect(Math.min(placed!.smallestArea, 1 / placed!.largestArea)).toBeGreaterThanOrEqual(0.2 - 1e-6);
  // inside the box the file shows what the command line makes of the document, and not what the picture was; the choices of JPEG differ
  const file = await exportByKeys(page);
  const [mine, theirs, was] = await Promise.all(
    [file, await applied(page, 'name-plate.jpg'), demoPicture('name-plate.jpg')].map((f) => sharp(f).removeAlpha().raw().toBuffer()),
  );
  expect([mine!.length, was!.length]).toEqual([theirs!.length, theirs!.length]);
  const { x, y, width, height } = warp.shimBoxes[0]!;
  const off = (of: Buffer): number => {
    let [sum, count] = [0, 0];
    for (let j = Math.ceil(y); j < y + height; j += 1)
      for (let k = (j * warp.outputSize.width + Math.ceil(x)) * 3; k < (j * warp.outputSize.width + x + width - 1) * 3; k += 1, count += 1)
        sum += Math.abs(mine![k]! - of[k]!);
    return sum / count;
  };
  expect(off(theirs!)).toBeLessThan(2);
  expect(off(was!)).toBeGreaterThan(3 * off(theirs!));
  await page.keyboard.press('4');
  await page.keyboard.press('Control+z');
  expect((await warpOf(page)).correction.ease.shims[0]!.holds).toHaveLength(1);
});

test('missing corners are filled: seen at once, steered, the same pixels as from the command line, said in the file', async ({ page }) => {
  await openPicture(page, 'reservoir.jpg', demoPicture('reservoir.jpg'));
  await typeRoll(page, '3');
  await openStep(page, 'Crop');
  await page.getByRole('radio', { name: 'filled' }).click();
  await expect(page.locator('svg[ap-fill-marks] image')).toBeVisible({ timeout: 15_000 });
  await expect(page.locator('ap-crop-fill .note')).toContainText(/\d\.\d % of the file is filled/);
  await expect(page.locator('ap-crop-fill mat-checkbox', { hasText: 'corner' })).toHaveCount(4);
  // one corner stays empty; the water is not copied
  await page.getByRole('checkbox', { name: /bottom left corner/ }).uncheck();
  await page.getByRole('button', { name: 'Not from here' }).click();
  const { warp } = await warpOf(page);
  const at = await planeOnScreen(page, warp);
  await page.mouse.move(...at([-600, 100]));
  await page.mouse.down();
  await page.mouse.move(...at([600, 500]), { steps: 4 });
  await page.mouse.up();
  await expect(page.locator('svg[ap-fill-marks] .area')).toHaveCount(1);
  await page.getByRole('button', { name: 'Another try' }).click();
  const { file } = await exportFile(page, 'PNG');
  const { correction } = await warpOf(page);
  expect(correction.crop.fill).toMatchObject({ seed: 2, areas: [{ kind: 'not' }] });
  const [mine, theirs] = await Promise.all([file, await applied(page, 'reservoir.jpg')].map((f) => sharp(f).raw().toBuffer()));
  expect(mine!.equals(theirs!)).toBe(true);
  const { data, info } = await sharp(file).raw().toBuffer({ resolveWithObject: true });
  const alpha = (x: number, y: number): number => data[(y * info.width + x) * 4 + 3]!;
  expect([alpha(2, 2), alpha(info.width - 3, 2), alpha(info.width - 3, info.height - 3), alpha(2, info.height - 3)]).toEqual([
    255, 255, 255, 0,
  ]);
  expect((await sharp(file).metadata()).xmp?.toString()).toContain('compositeCapture');
  // one page says it all
  await openStep(page, 'Check');
  const [check] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: /Save check/ }).click()]);
  expect(readFileSync(await check.path()).toString()).toContain('was not taken: it is filled');
});

test('by keys alone empty edges are filled and a horizon goes straight on within 1 px', async ({ page }) => {
  // sea and sky meet at a slope of 2 degrees: levelled, the border of both goes on into the corners
  const [w, h] = [1500, 1000];
  const slip = Math.tan((2 * Math.PI) / 180);
  const raw = Buffer.alloc(w * h * 3);
  for (let y = 0, k = 0; y < h; y += 1)
    for (let x = 0; x < w; x += 1, k += 3) {
      const t = Math.min(1, Math.max(0, y - (500 + (x - w / 2) * slip) + 0.5));
      const grain = ((x * 7919 + y * 104_729) % 13) - 6;
      raw[k] = 190 - 130 * t + grain;
      raw[k + 1] = 205 - 110 * t + grain;
      raw[k + 2] = 225 - 90 * t + grain;
    }
  const picture = await sharp(raw, { raw: { width: w, height: h, channels: 3 } })
    .png()
    .toBuffer();
  await openPicture(page, 'sea.png', picture);
  await typeRoll(page, '-2');
  await page.keyboard.press('5');
  await tabTo(page, page.getByRole('radio', { name: 'clear', exact: true }));
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('radio', { name: 'filled' })).toBeChecked();
  await expect(page.locator('svg[ap-fill-marks] image')).toBeVisible({ timeout: 15_000 });
  const straight = page.getByRole('button', { name: 'Go straight on' });
  await tabTo(page, straight);
  await page.keyboard.press('Enter');
  await tabTo(page, page.locator('ap-stage .area'), 'Shift+Tab');
  // from the middle of the stage along the horizon to the right
  const { warp } = await warpOf(page);
  await expect(straight).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Enter');
  for (let i = 0; i < 5; i += 1) await page.keyboard.press('Control+ArrowRight');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await warpOf(page)).correction.crop.fill.lines.length).toBe(1);
  const file = await exportByKeys(page);
  const { data, info } = await sharp(file).greyscale().raw().toBuffer({ resolveWithObject: true });
  const edge = (x: number): number => {
    for (let y = 20; y < info.height - 20; y += 1) {
      const tone = (row: number): number =>
        [-4, -3, -2, -1, 0, 1, 2, 3, 4].reduce((sum, i) => sum + data[(row * info.width + x + i) * info.channels]!, 0) / 9;
      if (tone(y) >= 140 && tone(y + 1) < 140) return y + (tone(y) - 140) / (tone(y) - tone(y + 1));
    }
    return NaN;
  };
  const level = edge(Math.round(info.width / 2));
  for (let x = info.width - 8; x > info.width - 60; x -= 4) expect(Math.abs(edge(x) - level), `${x}`).toBeLessThan(1);
  expect(warp.outputSize).toEqual({ width: info.width, height: info.height });
});

test('an export that is cancelled while it fills leaves nothing, and the next one goes through', async ({ page }) => {
  await openDemoPicture(page, 'pump-hall-front.jpg');
  await typeRoll(page, '4');
  await openStep(page, 'Crop');
  await page.getByRole('radio', { name: 'filled' }).click();
  let downloads = 0;
  page.on('download', () => (downloads += 1));
  await openStep(page, 'Export');
  await page.getByRole('button', { name: 'Export', exact: true }).click();
  await expect(page.getByText(/Filling \d+ %/)).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText('The export was cancelled; nothing was written.')).toBeVisible();
  expect(downloads).toBe(0);
  const { file } = await exportFile(page, 'JPEG');
  const { warp } = await warpOf(page);
  expect((await sharp(file).metadata()).width).toBe(warp.outputSize.width);
});
