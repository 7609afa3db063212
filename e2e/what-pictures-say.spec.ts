import sharp from 'sharp';
import { placeOf } from '../demo/src/places/kinds';
import {
  demoPicture,
  demoTruth,
  documentOf,
  exportByKeys,
  exportFile,
  expect,
  leansInFile,
  onBench,
  onScreen,
  openStep,
  openPicture,
  pixelsOf,
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
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  await page.keyboard.press('Escape');
  await expect(page.locator('g.evidence')).toHaveCount(0);
  await page.keyboard.press('j');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('table', { name: 'Lines' })).toContainText('Plumb 1');
  await expect(page.getByRole('button', { name: 'Plumb 1, found, change its kind' })).toBeVisible();
  const file = await exportByKeys(page);
  for (const lean of await leansInFile(page, truth, file)) expect(Math.abs(lean)).toBeLessThan(0.15);
  await page.keyboard.press('Control+z');
  expect(((await documentOf(page)) as unknown as Document).references).toEqual([]);
});

test('a wood says why it says nothing; what is refused folds away; both go out as they came', async ({ page }) => {
  const { raster } = placeOf(500);
  const wood = await sharp(Buffer.from(raster.data), { raw: { width: raster.width, height: raster.height, channels: 3 } })
    .png()
    .toBuffer();
  await openPicture(page, 'wood.png', wood);
  await expect(page.locator('ap-suggestion-row')).toContainText(/do not agree on what is plumb|Two answers/, { timeout: 60_000 });
  await expect(page.locator('ap-suggestion-row .card')).toHaveCount(0);
  const { file } = await exportFile(page, 'PNG');
  expect(await pixelsOf(file)).toEqual(await pixelsOf(wood));
  await openPicture(page, 'stair.jpg', demoPicture('stair.jpg'));
  const cards = page.getByRole('group', { name: 'Suggestions' }).getByRole('button');
  await cards.first().waitFor({ timeout: 60_000 });
  await page.keyboard.press('j');
  await page.keyboard.press('Delete');
  await expect(cards).toHaveCount(0);
  expect(((await documentOf(page)) as unknown as Document).references).toEqual([]);
  const refused = await exportFile(page, 'PNG');
  expect(Math.max(...(await leansInFile(page, demoTruth('stair'), refused.file)).map(Math.abs))).toBeGreaterThan(3);
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
  await openStep(page, 'Check');
  await expect(page.locator('ap-check-step')).toContainText(/other plumb edge.*do not/, { timeout: 60_000 });
  await page.getByLabel('show those').check();
  expect(await page.locator('g.evidence.against').count()).toBeGreaterThan(5);
  // they are right: the file leans by what was drawn wrong
  const { file } = await exportFile(page, 'JPEG');
  for (const lean of await leansInFile(page, demoTruth('pump-hall-front'), file)) expect(Math.abs(lean)).toBeGreaterThan(1);
});

test('twenty pictures are asked at once, the sure ones taken at once and taken back at once; the files are measured', async ({ page }) => {
  const names = ['water-tower', 'stair', 'filter-gallery', 'prints-sheet'];
  const small = await Promise.all(
    names.map((name) =>
      sharp(demoPicture(`${name}.jpg`))
        .keepExif()
        .resize({ width: 1200, height: 1200, fit: 'inside' })
        .jpeg()
        .toBuffer(),
    ),
  );
  await page.goto('/');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles(
      Array.from({ length: 20 }, (_, i) => ({
        name: `${names[i % 4]!}-${i}.jpg`,
        mimeType: 'image/jpeg',
        buffer: small[i % 4]!,
      })),
    );
  await page.waitForURL('**/job/**');
  await expect(page.getByText('20 pictures', { exact: true })).toBeVisible({ timeout: 60_000 });
  const sheet = page.getByRole('link', { name: /contact sheet/i });
  const judged = page.locator('ap-sheet-cell .line');
  const untouched = async (): Promise<number> => (await judged.allInnerTexts()).filter((text) => text === 'untouched').length;
  await expect.poll(untouched).toBe(20);
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Find lines' }).click();
  await expect(page.getByText('15 sure, 5 not')).toBeVisible({ timeout: 120_000 });
  await page.getByRole('button', { name: 'Take the sure ones' }).click();
  await expect(page.getByText(/15 pictures have their lines now/)).toBeVisible();
  await expect.poll(untouched).toBe(5);

  const tower = page.locator('ap-sheet-cell', { hasText: 'water-tower-16' });
  const truth = demoTruth('water-tower');
  const smaller = 1200 / truth.height;
  const edges = truth.edges.map(({ a, b, ...edge }) => ({
    ...edge,
    a: [a[0] * smaller, a[1] * smaller] as const,
    b: [b[0] * smaller, b[1] * smaller] as const,
  }));
  const leans = async (): Promise<readonly number[]> => {
    await tower.dblclick();
    await onBench(page);
    const { file } = await exportFile(page, 'JPEG');
    const found = (await leansInFile(page, { ...truth, edges }, file)).map(Math.abs);
    await sheet.click();
    return found;
  };
  expect(Math.max(...(await leans()))).toBeLessThan(0.15);
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect.poll(untouched).toBe(20);
  expect(Math.max(...(await leans()))).toBeGreaterThan(3);
});
