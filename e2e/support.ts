import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test as base, type Locator, type Page } from '@playwright/test';
import sharp from 'sharp';
import type { Correction, Warp } from '@able-plumb/core';

type P = readonly [number, number];

/** Fails a test when the page reaches outside the machine, logs an error, or throws. */
export const test = base.extend<{ watched: void }>({
  watched: [
    async ({ page }, use) => {
      const trouble: string[] = [];
      page.on('request', (request) => {
        if (!/^(http:\/\/127\.0\.0\.1:|blob:|data:)/.test(request.url())) trouble.push(`request to ${request.url()}`);
      });
      page.on('console', (message) => {
        // the browser's own line for a scanner's no, which is an answer
        const isNo = /^Failed to load resource/.test(message.text()) && message.location().url.includes('/scans/');
        if (message.type() === 'error' && !isNo) trouble.push(`console: ${message.text()}`);
      });
      page.on('pageerror', (error) => trouble.push(`error: ${error.message}`));
      await use();
      expect(trouble).toEqual([]);
    },
    { auto: true },
  ],
});

export { expect };

export const demoPicture = (name: string): Buffer => readFileSync(fileURLToPath(new URL(`../demo/job/${name}`, import.meta.url)));

export interface Truth {
  readonly width: number;
  readonly height: number;
  readonly edges: readonly { readonly name: string; readonly kind: string; readonly a: P; readonly b: P }[];
  readonly heads?: readonly { readonly outline: readonly P[]; readonly proportion: number }[];
}
export const demoTruth = (name: string): Truth => JSON.parse(demoPicture(`${name}.truth.json`).toString()) as Truth;

/** The stand-in scanner's own address; see playwright.config.ts. */
export const scannerAt = (baseURL: string | undefined): string => `http://127.0.0.1:${Number(new URL(baseURL ?? '').port) + 1}`;

/** A sea under a sky whose horizon rises to the right by `slipDeg`, passing through the middle; the edge is exact to a fraction of a step. */
export async function slippingHorizon(width: number, height: number, slipDeg: number): Promise<Buffer> {
  const data = Buffer.alloc(width * height * 3);
  const [s, c] = [Math.sin((slipDeg * Math.PI) / 180), Math.cos((slipDeg * Math.PI) / 180)];
  for (let j = 0; j < height; j += 1) {
    for (let i = 0; i < width; i += 1) {
      const below = (j + 0.5 - height / 2) * c + (i + 0.5 - width / 2) * s;
      const share = Math.min(1, Math.max(0, below + 0.5));
      data.set([200 - 150 * share, 210 - 130 * share, 230 - 110 * share].map(Math.round), (j * width + i) * 3);
    }
  }
  return sharp(data, { raw: { width, height, channels: 3 } })
    .png()
    .toBuffer();
}

/** Slope of a horizon in a picture file, degrees, positive rising to the right: where each strip of columns crosses half way. */
export async function horizonSlopeDeg(file: Buffer, from = 0.1, to = 0.9, band: P = [0, 1]): Promise<number> {
  const { data, info } = await sharp(file).greyscale().raw().toBuffer({ resolveWithObject: true });
  const strip = Math.max(2, Math.round(info.width / 60));
  const points: P[] = [];
  for (let x0 = Math.round(info.width * from); x0 + strip < info.width * to; x0 += strip) {
    const column = Array.from({ length: info.height }, (_, j) => {
      let sum = 0;
      for (let i = 0; i < strip; i += 1) sum += data[(j * info.width + x0 + i) * info.channels] as number;
      return sum / strip;
    });
    const [low, high] = [Math.round(info.height * band[0]), Math.round(info.height * band[1])];
    const middle = (Math.max(...column.slice(low, high)) + Math.min(...column.slice(low, high))) / 2;
    for (let j = low + 1; j < high; j += 1) {
      const [above, below] = [column[j - 1] as number, column[j] as number];
      if (above >= middle && below < middle) {
        points.push([x0 + strip / 2, j - 0.5 + (above - middle) / (above - below)]);
        break;
      }
    }
  }
  expect(points.length).toBeGreaterThan(20);
  const n = points.length;
  const [mx, my] = [points.reduce((sum, p) => sum + p[0], 0) / n, points.reduce((sum, p) => sum + p[1], 0) / n];
  const slope = points.reduce((sum, p) => sum + (p[0] - mx) * (p[1] - my), 0) / points.reduce((sum, p) => sum + (p[0] - mx) ** 2, 0);
  return (-Math.atan(slope) * 180) / Math.PI;
}

/** Chooses one of a list of choices by its name. */
export async function pick(page: Page, label: string, name: string): Promise<void> {
  await page.getByRole('combobox', { name: label, exact: true }).click();
  await page.getByRole('option', { name, exact: true }).click();
  await expect(page.getByRole('listbox', { name: label })).toHaveCount(0);
}

/** Sets the front, or what the lines may do; both fold into one line once there are lines. */
export async function setUp(page: Page, name: string): Promise<void> {
  const change = page.locator('ap-references-step').getByRole('button', { name: 'Change', exact: true });
  if (await change.isVisible()) await change.click();
  await page.getByRole('radio', { name, exact: true }).click();
}

/** Opens one file from Start and waits until it lies on the bench. */
export async function openPicture(page: Page, name: string, buffer: Buffer): Promise<void> {
  await page.goto('/');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name, mimeType: name.endsWith('.png') ? 'image/png' : 'image/jpeg', buffer });
  await onBench(page);
}

/** Opens a picture of the demo job on the bench. */
export async function openDemoPicture(page: Page, name: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name: 'Open the demo job' }).click();
  await expect(page.locator('.card')).toContainText('9 pictures', { timeout: 60_000 });
  await page.locator('.thumbs').click();
  await onBench(page);
  await page.locator('.where .job').click();
  await page.getByRole('menuitem', { name }).click();
  await expect(page.locator('h1')).toHaveText(name);
  await onBench(page);
}

/** Waits until the bench has drawn its picture. */
export async function onBench(page: Page): Promise<void> {
  await page.waitForURL('**/bench/**');
  await expect(page.locator('ap-stage .area > canvas')).toHaveAttribute('data-drawn', /.+/);
  // at this size they are folded to the verdict, until somebody wants more
  const folded = page.getByRole('button', { name: 'Unfold the readings' });
  if (!(await folded.isVisible())) return;
  await folded.click();
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
}

/** Where picture points lie on the screen while the stage shows the whole untouched picture. */
export async function onScreen(page: Page, width: number): Promise<(p: P) => P> {
  const area = await page.locator('ap-stage .area').boundingBox();
  const d = await page.locator('path.outline').getAttribute('d');
  const numbers = (d?.match(/-?[\d.]+/g) ?? []).map(Number);
  const xs = numbers.filter((_, i) => i % 2 === 0);
  const ys = numbers.filter((_, i) => i % 2 === 1);
  const [left, right, top] = [Math.min(...xs), Math.max(...xs), Math.min(...ys)];
  const scale = (right - left) / width;
  return ([x, y]) => [(area?.x ?? 0) + left + x * scale, (area?.y ?? 0) + top + y * scale];
}

/** Draws a line with the pen by dragging. */
export async function dragLine(page: Page, a: P, b: P): Promise<void> {
  await page.mouse.move(...a);
  await page.mouse.down();
  await page.mouse.move((a[0] + b[0]) / 2, (a[1] + b[1]) / 2, { steps: 3 });
  await page.mouse.move(...b, { steps: 3 });
  await page.mouse.up();
}

/** Exports what is on the bench and returns the file. */
export async function exportFile(
  page: Page,
  kind: 'JPEG' | 'PNG' | 'TIFF' | 'WebP' | 'AVIF' | 'JXL',
  go: () => Promise<void> = () => page.getByRole('button', { name: 'Export', exact: true }).click(),
): Promise<{ name: string; file: Buffer }> {
  await page.locator('ap-step-string').getByText('Export', { exact: true }).click();
  await page.getByRole('radio', { name: kind }).click();
  const [download] = await Promise.all([page.waitForEvent('download', { timeout: 60_000 }), go()]);
  const file = readFileSync(await download.path());
  await expect(page.locator('.done')).toContainText('The original is untouched');
  return { name: download.suggestedFilename(), file };
}

/** Goes from control to control until one has the keyboard. */
export async function tabTo(page: Page, control: Locator, key: 'Tab' | 'Shift+Tab' = 'Tab'): Promise<void> {
  for (let i = 0; i < 90; i += 1) {
    await page.keyboard.press(key);
    if (await control.evaluate((element) => element === document.activeElement)) return;
  }
  throw new Error('The keyboard does not come to this control.');
}

/** The same by the keyboard alone, in the format that stands there. */
export async function exportByKeys(page: Page): Promise<Buffer> {
  await page.keyboard.press('7');
  const button = page.getByRole('button', { name: 'Export', exact: true });
  await tabTo(page, button);
  const [download] = await Promise.all([page.waitForEvent('download', { timeout: 60_000 }), page.keyboard.press('Enter')]);
  // the next one is a press away
  await expect(button).toBeEnabled();
  await expect(button).toBeFocused();
  return readFileSync(await download.path());
}

export const openStep = (page: Page, name: string): Promise<void> =>
  page.locator('ap-step-string').getByText(name, { exact: true }).click();

/** Types a whole roll into the Stance step. */
export async function typeRoll(page: Page, text: string): Promise<void> {
  await openStep(page, 'Stance');
  await page.getByLabel('Roll', { exact: true }).fill(text);
  await page.getByLabel('Roll', { exact: true }).press('Enter');
}

export const pixelsOf = async (file: Buffer): Promise<{ width: number; height: number; data: Buffer }> => {
  const { data, info } = await sharp(file).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, data };
};

/**
 * Slope of something long and level in a picture file, degrees: how far the rows of one strip of columns have to be moved to match those
 * of another. Strips as shares of the width, rows as shares of the height.
 */
export async function stripSlopeDeg(file: Buffer, left: P, right: P, rows: P): Promise<number> {
  const { data, info } = await sharp(file).greyscale().raw().toBuffer({ resolveWithObject: true });
  const { width, height, channels } = info;
  const profile = ([from, to]: P): number[] => {
    const [x0, x1] = [Math.round(from * width), Math.round(to * width)];
    return Array.from({ length: height }, (_, j) => {
      let sum = 0;
      for (let i = x0; i < x1; i += 1) sum += data[(j * width + i) * channels] as number;
      return sum / (x1 - x0);
    });
  };
  const [a, b] = [profile(left), profile(right)];
  const [j0, j1] = [Math.round(rows[0] * height), Math.round(rows[1] * height)];
  const cost = (shift: number): number => {
    let sum = 0;
    for (let j = j0; j < j1; j += 1) sum += ((a[j] as number) - (b[j - shift] as number)) ** 2;
    return sum;
  };
  let best = 0;
  for (let shift = -90; shift <= 90; shift += 1) if (cost(shift) < cost(best)) best = shift;
  const [c0, c1, c2] = [cost(best - 1), cost(best), cost(best + 1)];
  const rise = best + (c0 - c2) / (2 * (c0 - 2 * c1 + c2));
  return (Math.atan(rise / (((right[0] + right[1] - left[0] - left[1]) / 2) * width)) * 180) / Math.PI;
}

/** Draws known edges on the original, a screen pixel off them: the magnet settles them. Shift draws over rings that are there. */
export async function drawEdges(page: Page, truth: Truth, names: readonly string[]): Promise<void> {
  await page.getByRole('radio', { name: 'original' }).click();
  for (const name of names) {
    const edge = truth.edges.find((e) => e.name === name)!;
    const at = await onScreen(page, truth.width);
    const rows = await page.locator('ap-references-step tbody tr').count();
    await page.keyboard.down('Shift');
    const off = ([x, y]: P): P => [x + 1, y + 1];
    await page.mouse.move(...off(at(edge.a)));
    await page.mouse.down();
    await page.mouse.move(...off(at(edge.b)), { steps: 4 });
    await page.mouse.up();
    await page.keyboard.up('Shift');
    await expect(page.locator('ap-references-step tbody tr')).toHaveCount(rows + 1);
  }
  await page.getByRole('radio', { name: 'result' }).click();
}

/** The correction of the picture on the bench, from the shelf. */
export async function documentOf(page: Page): Promise<Record<string, unknown>> {
  await expect(page.locator('.saved')).toHaveText('saved');
  await page.waitForTimeout(400);
  return page.evaluate(async () => {
    const open = indexedDB.open('able-plumb');
    await new Promise((resolve) => (open.onsuccess = resolve));
    const pictureId = location.pathname.split('/').pop() as string;
    const request = open.result.transaction('histories').objectStore('histories').get(pictureId);
    await new Promise((resolve) => (request.onsuccess = resolve));
    return (request.result as { present: Record<string, unknown> }).present;
  });
}

/** Leans of known plumb edges in the exported file, by mapping their ends with the document that made it. */
export async function leansInFile(page: Page, truth: Truth, file: Buffer): Promise<readonly number[]> {
  const { leanDeg } = await import('@able-plumb/core');
  const { warp } = await warpOf(page);
  const meta = await sharp(file).metadata();
  expect([meta.width, meta.height]).toEqual([warp.outputSize.width, warp.outputSize.height]);
  return truth.edges.filter((e) => e.kind === 'plumb').map((e) => leanDeg(warp.toOutput(...(e.a as P))!, warp.toOutput(...(e.b as P))!));
}

/** The correction of the picture on the bench, and its warp. */
export const warpOf = async (page: Page): Promise<{ readonly correction: Correction; readonly warp: Warp }> => {
  const { composeWarp, parseCorrection } = await import('@able-plumb/core');
  const correction = parseCorrection(await documentOf(page));
  return { correction, warp: composeWarp(correction, correction.picture) };
};

/** Box of points, as [left, top, right, bottom]. */
export const boxOf = (points: readonly P[]): readonly [number, number, number, number] => [
  Math.min(...points.map((p) => p[0])),
  Math.min(...points.map((p) => p[1])),
  Math.max(...points.map((p) => p[0])),
  Math.max(...points.map((p) => p[1])),
];

/** Where points of the plane lie on the screen, by the outline that is drawn. */
export async function planeOnScreen(page: Page, warp: Warp): Promise<(p: P) => P> {
  const area = (await page.locator('ap-stage .area').boundingBox())!;
  const numbers = ((await page.locator('path.outline').getAttribute('d'))!.match(/-?[\d.]+/g) ?? []).map(Number);
  const drawn = boxOf(numbers.flatMap((x, i): P[] => (i % 2 === 0 ? [[x, numbers[i + 1]!]] : [])));
  const plane = boxOf(warp.outline);
  const scale = (drawn[2] - drawn[0]) / (plane[2] - plane[0]);
  return ([x, y]) => [area.x + drawn[0] + (x - plane[0]) * scale, area.y + drawn[1] + (y - plane[1]) * scale];
}

/** Drags a ring round a head, by the picture points of its outline. */
export async function ringTheHead(page: Page, outline: readonly P[]): Promise<void> {
  const { toPlane } = await import('@able-plumb/core');
  const { warp } = await warpOf(page);
  const [left, top, right, bottom] = boxOf(outline.map((p) => toPlane(warp, p)!));
  const at = await planeOnScreen(page, warp);
  await page.keyboard.press('f');
  await page.mouse.move(...at([left, top]));
  await page.mouse.down();
  await page.mouse.move(...at([right, bottom]), { steps: 4 });
  await page.mouse.up();
  await expect(page.locator('ap-ease-rings .reads')).toHaveCount(1);
}
