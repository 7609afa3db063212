import { readFileSync } from 'node:fs';
import { BlobReader, Uint8ArrayWriter, ZipReader, type FileEntry } from '@zip.js/zip.js';
import type { Download, Page } from '@playwright/test';
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

/** By how much a file differs from the print that lies so on the scan, turned by some degrees more; mean over samples, steps of 255. */
function offFrom(scan: Pixels, { corners: [a, b, , d] }: Print, file: Pixels, byDeg: number): number {
  const [c, s] = [Math.cos((byDeg * Math.PI) / 180), Math.sin((byDeg * Math.PI) / 180)];
  let [sum, n] = [0, 0];
  for (let j = 10; j < file.height - 10; j += 7)
    for (let i = 10; i < file.width - 10; i += 7) {
      const [u, v] = [(i + 0.5) / file.width - 0.5, (j + 0.5) / file.height - 0.5];
      const [du, dv] = [u * file.width, v * file.height];
      const [tu, tv] = [(du * c - dv * s) / file.width + 0.5, (du * s + dv * c) / file.height + 0.5];
      const x = Math.round(a[0] + tu * (b[0] - a[0]) + tv * (d[0] - a[0]) - 0.5);
      const y = Math.round(a[1] + tu * (b[1] - a[1]) + tv * (d[1] - a[1]) - 0.5);
      if (x < 0 || y < 0 || x >= scan.width || y >= scan.height) continue;
      for (let k = 0; k < 3; k += 1)
        sum += Math.abs((scan.data[(y * scan.width + x) * 3 + k] as number) - (file.data[(j * file.width + i) * 3 + k] as number));
      n += 3;
    }
  return sum / n;
}

const rgb = async (file: Buffer): Promise<Pixels> => {
  const { data, info } = await sharp(file).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, data };
};

/** Five files against the device's truth: as large as its prints, and each straight to a twelfth of a degree. */
async function measured(files: ReadonlyMap<string, Buffer>, scanned: Buffer, prints: readonly Print[]): Promise<void> {
  expect(files.size).toBe(5);
  const scan = await rgb(scanned);
  const left = [...prints];
  for (const [name, file] of files) {
    expect(name).toMatch(/^scan-.*-[1-5].*\.jpg$/);
    expect((await sharp(file).metadata()).density).toBe(300);
    const pixels = await rgb(file);
    // a print that lies on its side is straight as it lies
    const offs = left.map((print) => offFrom(scan, print, pixels, 0));
    const best = offs.indexOf(Math.min(...offs));
    const print = left.splice(best, 1)[0] as Print;
    const { corners } = print;
    expect(Math.abs(pixels.width - Math.hypot(corners[1][0] - corners[0][0], corners[1][1] - corners[0][1]))).toBeLessThan(12);
    expect(Math.abs(pixels.height - Math.hypot(corners[3][0] - corners[0][0], corners[3][1] - corners[0][1]))).toBeLessThan(12);
    // by which angle it is nearest to the print, degrees: the lowest point of a parabola through three
    const [less, none, more] = [-0.3, 0, 0.3].map((byDeg) => offFrom(scan, print, pixels, byDeg)) as [number, number, number];
    expect(Math.abs((0.3 * (less - more)) / (2 * (less - 2 * none + more)))).toBeLessThan(0.08);
    expect(none).toBeLessThan(Math.min(less, more));
    expect(offs[best]).toBeLessThan(9);
  }
}

const lastPage = async (page: Page, baseURL: string | undefined): Promise<Buffer> =>
  (await page.request.get(`${scannerAt(baseURL)}/stand-in/page`)).body();

const truth = async (page: Page, baseURL: string | undefined): Promise<readonly Print[]> =>
  ((await (await page.request.get(`${scannerAt(baseURL)}/stand-in/truth`)).json()) as { prints: Print[] }).prints;

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
  await measured(await unzipped(download), await lastPage(page, baseURL), await truth(page, baseURL));
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
  await measured(await unzipped(download), await lastPage(page, baseURL), await truth(page, baseURL));
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
    await page.request.post(`${device}/stand-in/fault/${fault}`);
    await expect(scan).toBeEnabled();
    await scan.click();
    await expect(dialog.getByRole('alert')).toContainText(words, { timeout: 60_000 });
    await page.request.post(`${device}/stand-in/fault/none`);
    // of a job at another address nobody can tell the device
    if (fault === 'elsewhere')
      await expect
        .poll(async () => (await page.request.get(`${device}/eSCL/ScannerStatus`)).text(), { timeout: 90_000 })
        .toContain('>Idle<');
  }
  await scan.click();
  await expect(dialog.getByRole('status')).toContainText('Scanning');
  await page.reload();
  await expect.poll(async () => (await page.request.get(`${device}/eSCL/ScannerStatus`)).text(), { timeout: 60_000 }).toContain('>Idle<');
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
  await page.locator('ap-string').getByText('Crop', { exact: true }).click();
  const inner = prints[1] as unknown as { inner: readonly [P, P, P, P] };
  const width = Math.hypot(inner.inner[1][0] - inner.inner[0][0], inner.inner[1][1] - inner.inner[0][1]);
  await expect(page.locator('svg .tag text', { hasText: '× ' }).first()).toContainText(
    new RegExp(`^${Math.round(width) - 1}|^${Math.round(width)}|^${Math.round(width) + 1}`),
  );
});
