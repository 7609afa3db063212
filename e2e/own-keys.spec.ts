import { readFileSync } from 'node:fs';
import { expect, openStep, openPicture, slippingHorizon, test } from './support';

test('keys are changed, kept, refused where taken, saved, read, and put back; digits work after Enter in a field', async ({ page }) => {
  await openPicture(page, 'sea.png', await slippingHorizon(600, 400, 1));
  const marks = page.getByRole('button', { name: 'Marks' });
  const change = async (what: RegExp, key: string): Promise<void> => {
    await page.getByRole('button', { name: what }).click();
    await page.keyboard.press(key);
  };
  await page.keyboard.press('?');
  await page.getByLabel('Search').fill('marks on');
  await change(/^Key for: Marks on or off/, 'p');
  await expect(page.getByText('P already asks for “Pen: draw a reference line”')).toBeVisible();
  await page.keyboard.press('z');
  await expect(page.getByText('Z it is.')).toBeVisible();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save keys' }).click()]);
  const saved = readFileSync(await download.path(), 'utf8');
  expect(JSON.parse(saved)).toMatchObject({ format: 'able-plumb-keys', keys: { marks: 'z' } });
  await page.getByLabel('Search').fill('view camera');
  await expect(page.locator('.words')).toContainText('rise');
  await page.getByRole('button', { name: 'Close' }).click();

  // kept over a reload, in the tooltip too; the first key no longer does it
  await page.reload();
  await page.keyboard.press('m');
  await expect(marks).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('z');
  await expect(marks).toHaveAttribute('aria-pressed', 'false');
  await marks.hover();
  await expect(page.locator('.mat-mdc-tooltip')).toHaveText('Marks on or off (Z)');

  await page.keyboard.press('?');
  await page.getByRole('button', { name: 'All keys as at first' }).click();
  await expect(page.getByText('All keys are the first ones again.')).toBeVisible();
  const file = page.locator('ap-keys-dialog input[type=file]');
  await file.setInputFiles({ name: 'k.json', mimeType: 'application/json', buffer: Buffer.from('{"keys":1}') });
  await expect(page.getByText('This is not a list of keys that was saved here.')).toBeVisible();
  await file.setInputFiles({ name: 'k.json', mimeType: 'application/json', buffer: Buffer.from(saved) });
  await expect(page.getByText('The keys of the file are yours now.')).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();
  await page.keyboard.press('z');
  await expect(marks).toHaveAttribute('aria-pressed', 'true');

  // Enter takes a value and gives the keyboard back: a digit opens a step; a wrong value stays with its reason
  await openStep(page, 'Stance');
  await page.getByLabel('Roll', { exact: true }).fill('1,5°');
  await page.getByLabel('Roll', { exact: true }).press('Enter');
  await expect(page.locator('ap-readings .stance')).toContainText('1.50°');
  await page.getByLabel('Tilt', { exact: true }).fill('much');
  await page.getByLabel('Tilt', { exact: true }).press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: 'a number, such as 2.5' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByLabel('Tilt', { exact: true })).toHaveValue('0.00');
  await page.getByLabel('Tilt', { exact: true }).fill('2');
  await page.keyboard.press('Enter');
  await page.keyboard.press('7');
  await expect(page.locator('ap-export-step')).toBeVisible();
  // Enter in a name exports nothing
  await page.getByLabel('Name', { exact: true }).fill('{name}-a');
  await page.keyboard.press('Enter');
  await expect(page.locator('ap-queue-card .done')).toHaveCount(0);

  // a tool's key again keeps it; Escape puts it away and says so; undo says what it takes back
  await page.keyboard.press('p');
  await page.keyboard.press('p');
  const pen = page.getByRole('button', { name: 'Pen' });
  await expect(pen).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Escape');
  await expect(page.getByText('Pen put away. P takes it again.')).toBeVisible();
  await expect(pen).toHaveAttribute('aria-pressed', 'false');
  await page.getByRole('button', { name: 'Undo' }).hover();
  await expect(page.locator('.mat-mdc-tooltip')).toHaveText('Undo: tilt (Ctrl+Z)');
});
