import sharp from 'sharp';
import { placeOf } from '../demo/src/places/kinds';
import {
  demoPicture,
  demoTruth,
  documentOf,
  exportFile,
  expect,
  leansInFile,
  onBench,
  onScreen,
  openKnot,
  openPicture,
  test,
} from './support';

interface Document {
  readonly references: readonly { readonly used: boolean; readonly by?: string }[];
  readonly stance: { readonly roll: number; readonly tilt: number };
}

test('a suggestion by keyboard alone: looked at, taken, exported and measured; one undo takes it back', async ({ page }) => {
  const truth = demoTruth('water-tower');
  await openPicture(page, 'water-tower.jpg', demoPicture('water-tower.jpg'));
  const cards = page.getByRole('group', { name: 'Suggestions' }).getByRole('button');
  await expect(cards.first()).toContainText('Stand plumb', { timeout: 60_000 });
  // looked at: its edges are on the stage, nothing is set
  await page.keyboard.press('j');
  await expect(cards.first()).toBeFocused();
  expect(await page.locator('g.evidence').count()).toBeGreaterThan(10);
  expect(((await documentOf(page)) as unknown as Document).references).toEqual([]);
  await openKnot(page, 'References');
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  await page.keyboard.press('Escape');
  await expect(page.locator('g.evidence')).toHaveCount(0);
  await page.keyboard.press('j');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('table', { name: 'Lines' })).toContainText('Plumb 1');
  await expect(page.getByRole('button', { name: 'Plumb 1, found, change its kind' })).toBeVisible();
  const { file } = await exportFile(page, 'JPEG');
  for (const lean of await leansInFile(page, truth, file)) expect(Math.abs(lean)).toBeLessThan(0.15);
  await page.keyboard.press('Control+z');
  expect(((await documentOf(page)) as unknown as Document).references).toEqual([]);
});

test('a wood says why it says nothing; what is refused folds away', async ({ page }) => {
  const { raster } = placeOf(500);
  const wood = await sharp(Buffer.from(raster.data), { raw: { width: raster.width, height: raster.height, channels: 3 } })
    .png()
    .toBuffer();
  await openPicture(page, 'wood.png', wood);
  await expect(page.locator('ap-suggestion-row')).toContainText(/do not agree on what is plumb|Two answers/, { timeout: 60_000 });
  await expect(page.locator('ap-suggestion-row .card')).toHaveCount(0);
  await openPicture(page, 'stair.jpg', demoPicture('stair.jpg'));
  const cards = page.getByRole('group', { name: 'Suggestions' }).getByRole('button');
  await cards.first().waitFor({ timeout: 60_000 });
  await page.keyboard.press('j');
  await page.keyboard.press('Delete');
  await expect(cards).toHaveCount(0);
  expect(((await documentOf(page)) as unknown as Document).references).toEqual([]);
});

test('the second opinion sees a line drawn wrong, and shows which edges do not agree', async ({ page }) => {
  await openPicture(page, 'pump-hall-front.jpg', demoPicture('pump-hall-front.jpg'));
  const at = await onScreen(page, demoTruth('pump-hall-front').width);
  // three degrees off plumb, along nothing: the magnet is let go
  await page.keyboard.down('n');
  for (const x of [1800, 4200]) {
    await page.mouse.move(...at([x, 1200]));
    await page.mouse.down();
    await page.mouse.move(...at([x + 120, 3000]), { steps: 4 });
    await page.mouse.up();
  }
  await page.keyboard.up('n');
  await openKnot(page, 'Check');
  await expect(page.locator('ap-check-knot')).toContainText(/other plumb edge.*do not/, { timeout: 60_000 });
  await page.getByLabel('show those').check();
  expect(await page.locator('g.evidence.against').count()).toBeGreaterThan(5);
});

test('lines found in the whole job: the sure ones taken at once and taken back at once', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Open the demo job' }).click();
  await page.locator('.card').getByText('8 pictures').waitFor({ timeout: 60_000 });
  await page.locator('.work').waitFor({ state: 'detached' });
  await page.locator('.thumbs').click();
  await onBench(page);
  await page.getByRole('link', { name: /contact sheet/i }).click();
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Find lines' }).click();
  await expect(page.getByText(/[3-7] sure, \d not/)).toBeVisible({ timeout: 120_000 });
  const judged = page.locator('ap-sheet-cell .line');
  const untouched = (await judged.allInnerTexts()).filter((text) => text === 'untouched').length;
  expect(untouched).toBeGreaterThanOrEqual(7);
  await page.getByRole('button', { name: 'Take the sure ones' }).click();
  await expect(page.getByText(/pictures have their lines now/)).toBeVisible();
  await expect
    .poll(async () => (await judged.allInnerTexts()).filter((text) => text.startsWith('true within')).length)
    .toBeGreaterThanOrEqual(3);
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect.poll(async () => (await judged.allInnerTexts()).filter((text) => text === 'untouched').length).toBe(untouched);
});
