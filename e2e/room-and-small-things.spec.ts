import type { Page } from '@playwright/test';
import {
  demoTruth,
  dragLine,
  expect,
  onBench,
  onScreen,
  openDemoPicture,
  openStep,
  openPicture,
  pick,
  ringTheHead,
  slippingHorizon,
  test,
} from './support';

const SIZES = [
  { width: 1280, height: 800 },
  { width: 1100, height: 700 },
  { width: 1920, height: 1080 },
  { width: 820, height: 1180 },
];

/** How many rows of the list of lines are seen whole. */
const rowsSeen = (page: Page): Promise<number> =>
  page.locator('ap-references-step tbody tr').evaluateAll((rows) => {
    const pane = document.querySelector('aside .step')!.getBoundingClientRect();
    return rows.filter((row) => row.getBoundingClientRect().top >= pane.top && row.getBoundingClientRect().bottom <= pane.bottom + 0.5)
      .length;
  });

test('room: ten lines beside their verdict, a contradiction never below the fold, nothing cut off; the side wider, away and back', async ({
  page,
}) => {
  await openDemoPicture(page, 'engine-hall.jpg');
  const truth = demoTruth('engine-hall');
  const at = await onScreen(page, truth.width);
  // with Shift a line is drawn over the rings of others; without the magnet it lies where it was drawn
  await page.getByRole('button', { name: 'Magnet' }).click();
  await page.keyboard.down('Shift');
  const plumbs = truth.edges.filter((e) => e.kind === 'plumb');
  const levels = truth.edges.filter((e) => e.kind === 'level');
  for (const e of [...plumbs, ...levels].slice(0, 10)) await dragLine(page, at(e.a), at(e.b));
  // one that cannot be plumb beside the others, by a sixth of its length
  const [a, b] = [plumbs[0]!.a, plumbs[0]!.b];
  await dragLine(page, at([a[0] + 60, a[1]]), at([b[0] + 60 + (b[1] - a[1]) / 6, b[1]]));
  await page.keyboard.up('Shift');
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(11);
  await page.getByRole('button', { name: 'Fold the readings' }).click();
  for (const size of SIZES) {
    await page.setViewportSize(size);
    const remedy = page.locator('ap-references-step .note.trouble', { hasText: 'contradicts the others' });
    await expect(remedy, `${size.width}`).toBeInViewport({ ratio: 1 });
    await expect(page.locator('ap-readings .verdict strong'), `${size.width}`).toBeInViewport({ ratio: 1 });
    if (size.height >= 800 && size.width > 1000) expect(await rowsSeen(page), `${size.width}`).toBeGreaterThanOrEqual(10);
    const cut = await page
      .locator('aside, aside .step, ap-step-string, .top, footer')
      .evaluateAll((parts) =>
        parts.filter((part) => part.scrollWidth > part.clientWidth + 1).map((part) => `${part.tagName} ${part.className}`),
      );
    expect(cut, `${size.width}`).toEqual([]);
  }
  await page.setViewportSize(SIZES[0]!);
  const width = async (): Promise<number> => Math.round((await page.locator('ap-stage').boundingBox())!.width);
  const before = await width();
  const edge = page.getByRole('separator', { name: 'Width of the side' });
  await edge.focus();
  for (let k = 0; k < 4; k += 1) await page.keyboard.press('ArrowLeft');
  await expect(edge).toHaveAttribute('aria-valuenow', '380');
  expect(await width()).toBe(before - 64);
  const grip = (await edge.boundingBox())!;
  await dragLine(page, [grip.x + 4, 300], [grip.x - 36, 300]);
  expect(await width()).toBe(before - 104);
  await page.locator('ap-stage .area').focus();
  await page.keyboard.press('x');
  expect(await width()).toBe(before + 316);
  await page.reload();
  await onBench(page);
  expect(await width()).toBe(before + 316);
  await page.getByRole('button', { name: 'Bring the side back' }).click();
  expect(await width()).toBe(before - 104);
});

test('turned by eye: the angle at the pointer and a grid while it lasts; an exact size keeps the proportions until they are unlocked', async ({
  page,
}) => {
  await openPicture(page, 'sea.png', await slippingHorizon(900, 600, 1));
  await openStep(page, 'Crop');
  const corner = (await page.locator('.crop rect.peg, .crop circle.peg').first().boundingBox())!;
  const beside: readonly [number, number] = [corner.x - 26, corner.y - 26];
  await expect(page.locator('.grid-lines path')).toHaveCount(0);
  await page.mouse.move(...beside);
  await page.mouse.down();
  await page.mouse.move(beside[0] + 30, beside[1] - 12, { steps: 4 });
  await expect(page.locator('.tag', { hasText: 'clockwise' })).toHaveText(/^\s*\d+\.\d\d° (anti)?clockwise\s*$/);
  expect(await page.locator('.grid-lines path').count()).toBeGreaterThan(10);
  await page.mouse.up();
  await expect(page.locator('.tag', { hasText: 'clockwise' })).toHaveCount(0);
  await expect(page.locator('.grid-lines path')).toHaveCount(0);
  await page.keyboard.press('Control+z');

  await openStep(page, 'Export');
  await pick(page, 'Size', 'exact pixels');
  const [w, h] = [page.getByLabel('Width, pixels'), page.getByLabel('Height, pixels')];
  await w.fill('450');
  await w.press('Enter');
  await expect(h).toHaveValue('300');
  await page.getByRole('checkbox', { name: 'in the crop’s proportions' }).uncheck();
  await h.fill('400');
  await h.press('Enter');
  await expect(w).toHaveValue('450');
  await expect(page.getByText(/These proportions make the picture 25\.0 % narrower/)).toBeVisible();
  // beyond what can be written: the bounds are said, and nothing is changed
  await h.fill('40000');
  await h.press('Enter');
  await expect(page.locator('ap-export-size mat-error')).toHaveText('1 to 32767');
  await h.press('Escape');
  await expect(h).toHaveValue('400');
});

test('a picture of each panel at once', async ({ page }) => {
  await openPicture(page, 'prints.png', await slippingHorizon(900, 600, 0));
  const at = await onScreen(page, 900);
  await page.getByRole('button', { name: 'Magnet' }).click();
  for (const x of [100, 500]) {
    await page.keyboard.press('q');
    await dragLine(page, at([x, 80]), at([x + 250, 240]));
    await expect(page.locator('ap-panel-card .panel-head')).toHaveCount(x === 100 ? 1 : 2);
  }
  await page.getByRole('button', { name: 'A picture of each panel' }).click();
  await expect(page.getByText('2 pictures more in this job, one of each panel.')).toBeVisible();
  await expect(page.locator('.count')).toHaveText('1 of 3');
  await page.keyboard.press('PageDown');
  await page.keyboard.press('PageDown');
  await expect(page.locator('h1')).toHaveText('prints, panel 2.png');
  await onBench(page);
  await expect(page.locator('ap-step-string .step', { hasText: 'References' })).toContainText('1 panel');
});

test('what may give for a ring is asked again after an undo', async ({ page }) => {
  await openDemoPicture(page, 'engine-hall.jpg');
  await openStep(page, 'Ease');
  const head = demoTruth('engine-hall').heads!.find((one) => one.outline.some(([x]) => x > 2800))!;
  await ringTheHead(page, head.outline);
  const ways = page.locator('.way-row');
  await expect(ways.first()).toBeVisible();
  const offered = await ways.allTextContents();
  await ways.first().click();
  await expect(page.locator('ap-ease-rings')).toContainText('Ring 1: true');
  await page.keyboard.press('Control+z');
  await expect(ways).toHaveText(offered);
});
