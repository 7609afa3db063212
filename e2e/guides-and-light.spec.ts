import {
  demoPicture,
  expect,
  exportFile,
  onScreen,
  openPicture,
  slippingHorizon,
  test,
  dragLine,
  typeRoll,
  openStep,
  setUp,
} from './support';

test('guides come out of the rulers, are moved, dragged out and cleared; the grid goes from none to 1 %', async ({ page }) => {
  await openPicture(page, 'sea.png', await slippingHorizon(1200, 800, 0));
  const guides = page.locator('g.guide');
  await dragLine(page, [183, 400], [500, 420]);
  await dragLine(page, [600, 58], [620, 300]);
  await expect(guides).toHaveCount(2);
  await page.keyboard.press('Escape');
  // the upright one moved, then dragged back into its ruler
  await dragLine(page, [500, 600], [560, 600]);
  await expect(guides.first().locator('path').first()).toHaveAttribute('d', /^M36[78]/);
  await dragLine(page, [560, 600], [180, 600]);
  await expect(guides).toHaveCount(1);
  await page.keyboard.press('Control+z');
  await expect(guides).toHaveCount(2);
  await page.getByRole('button', { name: 'Clear 2 guides' }).click();
  await expect(guides).toHaveCount(0);
  const lines = page.locator('.grid-lines path');
  await expect(lines).toHaveCount(0);
  for (const count of [8, 18, 34, 84, 168]) {
    await page.keyboard.press('g');
    await expect(lines).toHaveCount(count);
  }
  await page.keyboard.press('m');
  await expect(lines).toHaveCount(0);
});

test('the work light changes the view and never the file', async ({ page }) => {
  await openPicture(page, 'stair.jpg', demoPicture('stair.jpg'));
  await typeRoll(page, '3');
  const plain = await exportFile(page, 'PNG');
  const stage = page.locator('ap-stage .area > canvas');
  const seen = (): Promise<number> =>
    stage.evaluate((canvas) => {
      const { data } = (canvas as HTMLCanvasElement).getContext('2d')!.getImageData(300, 300, 60, 60);
      return data.reduce((sum, v) => sum + v, 0);
    });
  const before = await seen();
  await page.keyboard.press('w');
  await expect.poll(seen).not.toBe(before);
  const lit = await exportFile(page, 'PNG');
  expect(lit.file.equals(plain.file)).toBe(true);
});

test('the border as a line, a stated angle, and a sheet that only turns', async ({ page }) => {
  await openPicture(page, 'sea.png', await slippingHorizon(1200, 800, 2.5));
  const at = await onScreen(page, 1200);
  await dragLine(page, at([100, 430]), at([1100, 388]));
  const stance = page.locator('ap-readings .stance');
  await expect(stance).toContainText('Rolled clockwise 2.50°');
  // the sea really slopes by one degree: what is left is the camera's
  await page.getByLabel('In reality').fill('1');
  await page.getByLabel('In reality').press('Enter');
  await expect(stance).toContainText('Rolled clockwise 1.50°');
  await page.getByRole('button', { name: 'Clear all' }).click();
  await page.getByRole('button', { name: 'Border' }).click();
  await page.getByRole('menuitem', { name: 'left' }).click();
  await expect(page.locator('ap-references-step tbody tr')).toContainText('Plumb 1');
  await expect(stance).toContainText('Level; nothing tells tilt or swing');
  await setUp(page, 'sheet');
  await dragLine(page, at([300, 100]), at([340, 700]));
  // two plumb lines that converge: a wall would tilt, a sheet only turns
  await expect(stance).not.toContainText('Looking');
  await openStep(page, 'References');
});
