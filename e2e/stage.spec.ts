import sharp from 'sharp';
import {
  demoPicture,
  dragLine,
  expect,
  exportFile,
  horizonSlopeDeg,
  onBench,
  onScreen,
  openStep,
  openPicture,
  slippingHorizon,
  test,
} from './support';

const solid = (background: string): Promise<Buffer> =>
  sharp({ create: { width: 900, height: 600, channels: 3, background } })
    .png()
    .toBuffer();

test('turn the picture beside a corner of the crop, then draw a fresh crop', async ({ page }) => {
  await openPicture(page, 'sea.png', await slippingHorizon(1200, 800, 0));
  await openStep(page, 'Crop');
  const corner = await page.locator('.peg').nth(4).boundingBox();
  const [x, y] = [(corner?.x ?? 0) + 6, (corner?.y ?? 0) + 6];
  // beside the lower right corner, round the middle: clockwise is downwards on the left, leftwards at the bottom
  await dragLine(page, [x + 24, y + 24], [x + 4, y + 42]);
  await expect(page.locator('ap-readings .stance')).toContainText('Rolled clockwise');
  const stance = (await page.locator('ap-readings .stance').textContent()) ?? '';
  const turned = Number(/clockwise (\d+\.\d+)/.exec(stance)?.[1]);
  expect(turned).toBeGreaterThan(2);
  const { file } = await exportFile(page, 'PNG');
  // the horizon was level: it now falls to the right by what was turned
  expect(await horizonSlopeDeg(file, 0.2, 0.8)).toBeCloseTo(-turned, 1);
  await openStep(page, 'Crop');
  await page.locator('ap-crop-step').getByRole('radio', { name: 'free', exact: true }).click();
  const crop = await page.locator('.peg').nth(0).boundingBox();
  await dragLine(page, [(crop?.x ?? 0) - 20, (crop?.y ?? 0) - 70], [(crop?.x ?? 0) + 200, (crop?.y ?? 0) + 180]);
  await expect(page.locator('ap-crop-step')).toContainText('Set by hand');
  await page.keyboard.press('Control+z');
  await expect(page.locator('ap-crop-step')).not.toContainText('Set by hand');
});

test('wheel zooms at the pointer, the middle button pans, 0 fits; an end can be moved and Escape takes the drag back', async ({ page }) => {
  await openPicture(page, 'name-plate.jpg', demoPicture('name-plate.jpg'));
  const at = await onScreen(page, 3000);
  const zoom = page.locator('footer .value');
  const fitted = await zoom.textContent();
  await page.mouse.move(...at([1000, 700]));
  const before = await page.locator('footer .pointer').textContent();
  await page.mouse.wheel(0, -600);
  await expect(zoom).not.toHaveText(fitted ?? '');
  const numbers = (text: string | null): number[] => (text?.match(/[\d.]+/g) ?? []).map(Number);
  await page.mouse.move(at([1000, 700])[0] + 0.01, at([1000, 700])[1]);
  const after = await page.locator('footer .pointer').textContent();
  expect(Math.abs(numbers(before)[0]! - numbers(after)[0]!)).toBeLessThan(8);
  await page.mouse.down({ button: 'middle' });
  await page.mouse.move(at([1000, 700])[0] + 80, at([1000, 700])[1] + 40, { steps: 3 });
  await page.mouse.up({ button: 'middle' });
  await page.keyboard.press('0');
  await expect(zoom).toHaveText(fitted ?? '');
  // a line, then its right end, both meant where they are: the magnet is let go
  await page.keyboard.down('n');
  await dragLine(page, at([400, 1000]), at([2600, 1000]));
  await expect(page.locator('ap-references-step tbody tr')).toHaveCount(1);
  const ring = await page.locator('g.line .ring').last().boundingBox();
  const [rx, ry] = [(ring?.x ?? 0) + (ring?.width ?? 0) / 2, (ring?.y ?? 0) + (ring?.height ?? 0) / 2];
  const row = page.locator('ap-references-step tbody tr');
  const was = await row.innerText();
  await page.mouse.move(rx, ry);
  await page.mouse.down();
  await page.mouse.move(rx, ry - 30, { steps: 4 });
  await expect(page.locator('figcaption')).toHaveText('result');
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await expect.poll(() => row.innerText()).toBe(was);
  await dragLine(page, [rx, ry], [rx, ry - 30]);
  await expect(row).not.toHaveText(was);
  await expect(row).toContainText('0.00°');
});

test('paging quickly through pictures never shows one under the marks of another', async ({ page }) => {
  await page.goto('/');
  const red = await solid('#c04030');
  const green = await solid('#308040');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles(
      ['a', 'b', 'c', 'd', 'e'].map((name, k) => ({ name: `${name}.png`, mimeType: 'image/png', buffer: k === 4 ? green : red })),
    );
  await onBench(page);
  for (let k = 0; k < 4; k += 1) await page.keyboard.press('PageDown');
  await expect(page.locator('h1')).toHaveText('e.png');
  const middle = (): Promise<readonly number[]> =>
    page.locator('ap-stage .area > canvas').evaluate((canvas) => {
      const { width, height } = canvas as HTMLCanvasElement;
      return width < 2
        ? []
        : Array.from(
            (canvas as HTMLCanvasElement)
              .getContext('2d')!
              .getImageData(width >> 1, height >> 1, 1, 1)
              .data.slice(0, 3),
          );
    });
  await expect.poll(middle).toEqual([0x30, 0x80, 0x40]);
});
