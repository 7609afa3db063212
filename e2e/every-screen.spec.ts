import AxeBuilder from '@axe-core/playwright';
import { demoPicture, expect, onBench, openKnot, openPicture, test } from './support';

const SIZES = [
  { width: 1024, height: 700 },
  { width: 1280, height: 800 },
  { width: 1920, height: 1080 },
];

test('the demo job opens from the server, and each screen passes the accessibility rules at every size, in both themes', async ({
  page,
}) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Open the demo job' }).click();
  await expect(page.locator('.card')).toContainText('8 pictures', { timeout: 60_000 });
  await expect(page.locator('.work')).toHaveCount(0);
  const judge = async (what: string): Promise<void> => {
    const { violations } = await new AxeBuilder({ page }).analyze();
    expect(violations.map((v) => `${what}: ${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`)).toEqual([]);
  };
  for (const theme of ['light', 'dim']) {
    await judge(`start, ${theme}`);
    await page.getByLabel('Light or dim theme').click();
  }
  await page.getByRole('link', { name: 'Contact sheet' }).click();
  await page.locator('ap-sheet-cell').first().click();
  for (const theme of ['light', 'dim']) {
    for (const size of theme === 'light' ? SIZES : SIZES.slice(1, 2)) {
      await page.setViewportSize(size);
      await judge(`contact sheet, ${theme}, ${size.width}`);
    }
    await page.getByLabel('Light or dim theme').click();
  }
  await page.locator('ap-sheet-cell').first().dblclick();
  await onBench(page);
  await openKnot(page, 'Ease');
  await page.locator('ap-ease-edges .choice', { hasText: 'left' }).click();
  await page.getByLabel('keep the frame').check();
  for (const theme of ['light', 'dim']) {
    for (const size of theme === 'light' ? SIZES : SIZES.slice(1, 2)) {
      await page.setViewportSize(size);
      for (const knot of ['Lens', 'References', 'Stance', 'Ease', 'Crop', 'Check', 'Export']) {
        await openKnot(page, knot);
        await judge(`${knot}, ${theme}, ${size.width}`);
        // nothing may stick out of the window
        const out = await page.evaluate(() => [
          document.documentElement.scrollWidth - window.innerWidth,
          document.documentElement.scrollHeight - window.innerHeight,
        ]);
        expect(out.every((v) => v <= 0)).toBe(true);
      }
    }
    await page.getByLabel('Light or dim theme').click();
  }
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toContainText('Quarter turn clockwise');
  await judge('help');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
});

test('the lens cabinet and the Lens knot with its chart, edges and fringes pass them too', async ({ page }) => {
  await page.goto('/lenses');
  for (const name of ['hollin-zoom-18-35', 'hollin-fisheye-15'])
    await page.locator('header input[type=file]').setInputFiles({
      name: `${name}.lens.json`,
      mimeType: 'application/json',
      buffer: demoPicture(`lenses/${name}.lens.json`),
    });
  const judge = async (what: string): Promise<void> => {
    const { violations } = await new AxeBuilder({ page }).analyze();
    expect(violations.map((v) => `${what}: ${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`)).toEqual([]);
    const out = await page.evaluate(() => [
      document.documentElement.scrollWidth - window.innerWidth,
      document.documentElement.scrollHeight - window.innerHeight,
    ]);
    expect(out.every((v) => v <= 0)).toBe(true);
  };
  await page.locator('li', { hasText: 'Zoom' }).getByRole('checkbox').check();
  for (const size of SIZES) {
    await page.setViewportSize(size);
    await judge(`cabinet, ${size.width}`);
  }
  await page.getByLabel('Light or dim theme').click();
  await judge('cabinet, dim');
  await openPicture(page, 'engine-hall.jpg', demoPicture('engine-hall.jpg'));
  await openKnot(page, 'Lens');
  await expect(page.locator('ap-line-chart .main-svg').first()).toBeVisible();
  await judge('profile, dim');
  await page.keyboard.press('t');
  await judge('trace, dim');
});

test('marks and the original are one key each', async ({ page }) => {
  await openPicture(page, 'name-plate.jpg', demoPicture('name-plate.jpg'));
  await page.keyboard.down('b');
  await expect(page.locator('.flag')).toHaveText('original');
  await page.keyboard.up('b');
  await expect(page.locator('.flag')).toHaveCount(0);
  await expect(page.locator('g.crop')).toHaveCount(1);
  await page.keyboard.press('m');
  await expect(page.locator('g.crop')).toHaveCount(0);
  await page.keyboard.press('m');
  await expect(page.locator('g.crop')).toHaveCount(1);
});
