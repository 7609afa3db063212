import { readFileSync } from 'node:fs';
import { BlobReader, Uint8ArrayWriter, ZipReader, type FileEntry } from '@zip.js/zip.js';
import type { Download } from '@playwright/test';
import sharp from 'sharp';
import { demoPicture, expect, openPicture, scannerAt, test } from './support';

type P = readonly [number, number];
interface Print {
  readonly corners: readonly [P, P, P, P];
  readonly angleDeg: number;
}

/** The files of a downloaded zip, by name. */
async function unzipped(download: Download): Promise<Map<string, Buffer>> {
  const reader = new ZipReader(new BlobReader(new Blob([readFileSync(await download.path())])));
  const files = new Map<string, Buffer>();
  for (const entry of await reader.getEntries())
    files.set(entry.filename, Buffer.from(await (entry as FileEntry).getData(new Uint8ArrayWriter())));
  return files;
}

interface Pixels {
  readonly width: number;
  readonly height: number;
  readonly data: Buffer;
}

/**
 * How a file lies on a scan of as many pixels an inch, near a print: turned from the print by some degrees more, and how far they still
 * differ there, root mean square of steps of 255. Least squares over turn and shift (Gauss and Newton's), from the print's middle.
 */
function lieOn(scan: Pixels, { corners: [a, b, c, d] }: Print, file: Pixels): { byDeg: number; rms: number } {
  const at = (x: number, y: number): number => {
    const [i, j] = [Math.min(scan.width - 2, Math.max(0, Math.floor(x))), Math.min(scan.height - 2, Math.max(0, Math.floor(y)))];
    const [u, v, k] = [x - i, y - j, j * scan.width + i];
    const row = (n: number): number => (scan.data[n] as number) * (1 - u) + (scan.data[n + 1] as number) * u;
    return row(k) * (1 - v) + row(k + scan.width) * v;
  };
  const lies = Math.atan2(b[1] - a[1], b[0] - a[0]);
  let [turn, x0, y0, rms] = [lies, (a[0] + b[0] + c[0] + d[0]) / 4, (a[1] + b[1] + c[1] + d[1]) / 4, 0];
  for (let pass = 0; pass < 12; pass += 1) {
    const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
    // normal equations of turn, x and y, a row each, the right side last
    const rows = [0, 1, 2].map(() => [0, 0, 0, 0]);
    let [squares, n] = [0, 0];
    for (let j = 20; j < file.height - 20; j += 7)
      for (let i = 20; i < file.width - 20; i += 7) {
        const [p, q] = [i + 0.5 - file.width / 2, j + 0.5 - file.height / 2];
        const [x, y] = [x0 + p * cos - q * sin - 0.5, y0 + p * sin + q * cos - 0.5];
        const [gx, gy] = [at(x + 1, y) - at(x - 1, y), at(x, y + 1) - at(x, y - 1)].map((g) => g / 2) as [number, number];
        const off = (file.data[j * file.width + i] as number) - at(x, y);
        const slopes = [gx * (-p * sin - q * cos) + gy * (p * cos - q * sin), gx, gy, off];
        for (let r = 0; r < 3; r += 1)
          for (let k = 0; k < 4; k += 1) (rows[r] as number[])[k]! += (slopes[r] as number) * (slopes[k] as number);
        squares += off * off;
        n += 1;
      }
    const [m0, m1, m2] = rows as [number[], number[], number[]];
    const det = (k: number, l: number, m: number): number =>
      m0[k]! * (m1[l]! * m2[m]! - m1[m]! * m2[l]!) -
      m0[l]! * (m1[k]! * m2[m]! - m1[m]! * m2[k]!) +
      m0[m]! * (m1[k]! * m2[l]! - m1[l]! * m2[k]!);
    const all = det(0, 1, 2);
    turn += det(3, 1, 2) / all;
    x0 += det(0, 3, 2) / all;
    y0 += det(0, 1, 3) / all;
    rms = Math.sqrt(squares / n);
  }
  return { byDeg: ((turn - lies) * 180) / Math.PI, rms };
}

/** Its luminance, soft enough to be followed by its slopes. */
const softened = async (file: Buffer): Promise<Pixels> => {
  const { data, info } = await sharp(file).removeAlpha().greyscale().blur(3).raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, data };
};

/** Five files against the device's truth: as large as its prints, and each straight to a twentieth of a degree. */
async function measured(files: ReadonlyMap<string, Buffer>, scanned: Buffer, prints: readonly Print[]): Promise<void> {
  expect(files.size).toBe(5);
  const scan = await softened(scanned);
  const left = [...prints];
  for (const [name, file] of files) {
    expect(name).toMatch(/^scan-.*-[1-5].*\.jpg$/);
    expect((await sharp(file).metadata()).density).toBe(300);
    const pixels = await softened(file);
    // a print that lies on its side is straight as it lies
    const lie = left.map((print) => lieOn(scan, print, pixels));
    const best = lie.findIndex(({ rms }) => rms === Math.min(...lie.map((one) => one.rms)));
    const print = left.splice(best, 1)[0] as Print;
    const { corners } = print;
    expect(Math.abs(pixels.width - Math.hypot(corners[1][0] - corners[0][0], corners[1][1] - corners[0][1]))).toBeLessThan(12);
    expect(Math.abs(pixels.height - Math.hypot(corners[3][0] - corners[0][0], corners[3][1] - corners[0][1]))).toBeLessThan(12);
    const { byDeg, rms } = lie[best] as { byDeg: number; rms: number };
    expect(Math.abs(byDeg)).toBeLessThan(0.05);
    expect(rms).toBeLessThan(1);
  }
}

const lastPage = async (baseURL: string | undefined): Promise<Buffer> =>
  Buffer.from(await (await fetch(`${scannerAt(baseURL)}/stand-in/page`)).arrayBuffer());

const truth = async (baseURL: string | undefined): Promise<readonly Print[]> =>
  ((await (await fetch(`${scannerAt(baseURL)}/stand-in/truth`)).json()) as { prints: Print[] }).prints;

test('from the scanner to five straight files by mouse, in four clicks', async ({ page, baseURL }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Scan', exact: true }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByLabel('Scanner', { exact: true })).toContainText('stand-in');
  await dialog.getByRole('button', { name: 'Scan', exact: true }).click();
  await expect(dialog.getByRole('status')).toContainText('Scanning');
  await page.waitForURL('**/sheet/**');
  await expect(page.locator('ap-piece-list li')).toHaveCount(5);
  await page.getByRole('button', { name: 'Split into 5 pictures' }).click();
  await page.waitForURL('**/job/**');
  await expect(page.locator('ap-sheet-side h2')).toHaveText('5 selected');
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Export them' }).click()]);
  await measured(await unzipped(download), await lastPage(baseURL), await truth(baseURL));
});

test('the same by the keyboard alone: the next scan goes into the same job, one outline is nudged and nudged back', async ({
  page,
  baseURL,
}) => {
  await openPicture(page, 'heap.jpg', demoPicture('loose-prints.jpg'));
  await page.getByRole('link', { name: 'Contact sheet' }).focus();
  await page.keyboard.press('Enter');
  await page.waitForURL('**/job/**');
  const reach = async (name: string | RegExp): Promise<void> => {
    const button = page.getByRole('button', { name, ...(typeof name === 'string' ? { exact: true } : {}) }).last();
    await expect(button).toBeEnabled();
    for (let i = 0; i < 120 && !(await button.evaluate((element) => element === document.activeElement)); i += 1)
      await page.keyboard.press('Tab');
    await expect(button).toBeFocused();
  };
  await reach('Scan');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog').getByLabel('Scanner', { exact: true })).toBeVisible();
  await reach('Scan');
  await page.keyboard.press('Enter');
  await page.waitForURL('**/sheet/**');
  await expect(page.locator('ap-piece-list li')).toHaveCount(5);
  // the second piece, its third corner, to the right and back
  for (const key of ['j', 'j', 'e', 'e', 'e']) await page.keyboard.press(key);
  await expect(page.locator('ap-piece-list li').nth(1)).toHaveClass(/chosen/);
  const before = await page.locator('ap-piece-list li').nth(1).locator('.words').allTextContents();
  for (let i = 0; i < 3; i += 1) await page.keyboard.press('Control+ArrowRight');
  await expect.poll(() => page.locator('ap-piece-list li').nth(1).locator('.words').allTextContents()).not.toEqual(before);
  await page.keyboard.press('Control+z');
  await expect.poll(() => page.locator('ap-piece-list li').nth(1).locator('.words').allTextContents()).toEqual(before);
  await reach(/^Split into 5/);
  await page.keyboard.press('Enter');
  await page.waitForURL('**/job/**');
  await expect(page.locator('ap-sheet-side h2')).toHaveText('5 selected');
  await reach('Export them');
  const [download] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('Enter')]);
  await measured(await unzipped(download), await lastPage(baseURL), await truth(baseURL));
});

test('a scanner that fails says how, keeps what was scanned before, and a page that is left sets it free', async ({ page, baseURL }) => {
  const device = scannerAt(baseURL);
  await page.goto('/');
  await page.getByRole('button', { name: 'Scan', exact: true }).click();
  const dialog = page.getByRole('dialog');
  const scan = dialog.getByRole('button', { name: 'Scan', exact: true });
  for (const [fault, words] of [
    ['lid-open', 'lid is open'],
    ['breaks', 'in the middle of the page'],
    ['elsewhere', 'not its own'],
  ] as const) {
    await fetch(`${device}/stand-in/fault/${fault}`, { method: 'POST' });
    await expect(scan).toBeEnabled();
    await scan.click();
    await expect(dialog.getByRole('alert')).toContainText(words, { timeout: 60_000 });
    await fetch(`${device}/stand-in/fault/none`, { method: 'POST' });
    // of a job at another address nobody can tell the device
    if (fault === 'elsewhere')
      await expect.poll(async () => (await fetch(`${device}/eSCL/ScannerStatus`)).text(), { timeout: 90_000 }).toContain('>Idle<');
  }
  await scan.click();
  await expect(dialog.getByRole('status')).toContainText('Scanning');
  await page.reload();
  await expect.poll(async () => (await fetch(`${device}/eSCL/ScannerStatus`)).text(), { timeout: 60_000 }).toContain('>Idle<');
  await page.getByRole('button', { name: 'Scan', exact: true }).click();
  await expect(scan).toBeEnabled();
  await scan.click();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  await expect(scan).toBeEnabled();
  await dialog.getByRole('button', { name: 'Leave' }).click();
  await expect(page.locator('.card')).toHaveCount(0);
});

test('outlines by hand: a side dragged settles on the paper’s edge, a piece is cut, joined, drawn, turned and removed; its picture follows until a hand changes it', async ({
  page,
}) => {
  await openPicture(page, 'loose-prints.jpg', demoPicture('loose-prints.jpg'));
  await page.getByRole('link', { name: 'Split the sheet' }).click();
  const pieces = page.locator('ap-piece-list li');
  await expect(pieces).toHaveCount(4);
  const words = (n: number): Promise<string[]> => pieces.nth(n).locator('.words').allTextContents();
  const at = async (): Promise<(p: P) => P> => {
    const area = (await page.locator('ap-stage .area').boundingBox())!;
    const box = (await page.locator('path.outline').evaluate((e) => {
      const { x, y, width } = (e as SVGGraphicsElement).getBBox();
      return { x, y, width };
    }))!;
    return ([x, y]) => [area.x + box.x + (x * box.width) / 3071, area.y + box.y + (y * box.width) / 3071];
  };
  const drag = async (from: P, to: P): Promise<void> => {
    const place = await at();
    await page.mouse.move(...(place(from) as [number, number]));
    await page.mouse.down();
    await page.mouse.move(...(place([(from[0] + to[0]) / 2, (from[1] + to[1]) / 2]) as [number, number]), { steps: 4 });
    await page.mouse.move(...(place(to) as [number, number]), { steps: 4 });
    await page.mouse.up();
  };
  const { prints } = JSON.parse(demoPicture('loose-prints.truth.json').toString()) as { prints: Print[] };
  const tower = prints[3]!.corners;
  const side = (i: number): P => [(tower[i]![0] + tower[(i + 1) % 4]![0]) / 2, (tower[i]![1] + tower[(i + 1) % 4]![1]) / 2];
  const before = await words(3);
  // its right side out by hand without the magnet, and back with it
  await page.keyboard.down('n');
  await drag(side(1), [side(1)[0] + 150, side(1)[1]]);
  await page.keyboard.up('n');
  await expect.poll(() => words(3)).not.toEqual(before);
  await drag([side(1)[0] + 148, side(1)[1]], [side(1)[0] + 4, side(1)[1]]);
  await expect.poll(async () => Number(/^([\d.]+)/.exec((await words(3))[0] ?? '')?.[1])).toBeCloseTo(60, 0);

  // cut in two, joined again, another drawn, turned, removed
  await page.keyboard.press('v');
  const [a, b, c, d] = tower;
  const lerp = (p: P, q: P, t: number): P => [p[0] + t * (q[0] - p[0]), p[1] + t * (q[1] - p[1])];
  await drag(lerp(a, d, 0.5), lerp(b, c, 0.5));
  await expect(pieces).toHaveCount(5);
  for (const n of [3, 4]) await pieces.nth(n).getByRole('checkbox').check();
  await page.keyboard.press('u');
  await expect(pieces).toHaveCount(4);
  await page.keyboard.press('q');
  await drag([1500, 2000], [1800, 2250]);
  await expect(pieces).toHaveCount(5);
  await pieces.nth(4).getByRole('button').click();
  await page.keyboard.press('Delete');
  await expect(pieces).toHaveCount(4);
  await pieces.nth(2).getByRole('button').click();
  await page.getByRole('button', { name: 'Quarter turn to the right' }).click();
  await expect.poll(async () => (await words(2))[0]).toMatch(/^64\.\d × 89/);

  await page.getByRole('button', { name: 'Split into 4 pictures' }).click();
  await page.waitForURL('**/job/**');
  await expect(page.locator('ap-sheet-cell')).toHaveCount(5);
  // the first piece is changed by hand: its outline no longer moves it, which is said
  await page.locator('ap-sheet-cell').nth(1).dblclick();
  await page.waitForURL('**/bench/**');
  await expect(page.locator('ap-stage .area > canvas')).toHaveAttribute('data-drawn', /.+/);
  await page.keyboard.press('.');
  await page.getByRole('button', { name: 'Previous picture' }).click();
  await page.getByRole('link', { name: 'Split the sheet' }).click();
  await expect(pieces.first().locator('.remark')).toHaveText('its picture was changed by hand: it stays as it is');
  await page.getByText('inside its border').click();
  await page.getByRole('link', { name: 'Contact sheet' }).click();
  await page.locator('ap-sheet-cell').nth(2).dblclick();
  await page.waitForURL('**/bench/**');
  await page.locator('ap-step-string').getByText('Crop', { exact: true }).click();
  const inner = prints[1] as unknown as { inner: readonly [P, P, P, P] };
  const width = Math.hypot(inner.inner[1][0] - inner.inner[0][0], inner.inner[1][1] - inner.inner[0][1]);
  await expect(page.locator('svg .tag text', { hasText: '× ' }).first()).toContainText(
    new RegExp(`^${Math.round(width) - 1}|^${Math.round(width)}|^${Math.round(width) + 1}`),
  );
});
