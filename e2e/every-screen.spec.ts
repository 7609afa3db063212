import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { CDPSession, Page } from '@playwright/test';
import type { AxeResults, RunOptions } from 'axe-core';
import { demoPicture, dragLine, expect, onBench, onScreen, openStep, openPicture, test, typeRoll } from './support';

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** The accessibility rules on what is shown; put into the page once, which is five times as quick as once per look. */
async function judge(page: Page, what: string, without: readonly string[] = []): Promise<void> {
  // what is still fading in has no colours to be judged
  await page.evaluate(() =>
    Promise.all(
      document.getAnimations().map((a) => (a.effect?.getComputedTiming().iterations === Infinity ? null : a.finished.catch(() => null))),
    ),
  );
  if (!(await page.evaluate(() => 'axe' in window))) await page.evaluate(AXE);
  const options: RunOptions = { rules: Object.fromEntries(without.map((rule) => [rule, { enabled: false }])) };
  const { violations, passes } = await page.evaluate(
    (o) => (window as unknown as { axe: { run(where: Document, o: RunOptions): Promise<AxeResults> } }).axe.run(document, o),
    options,
  );
  expect(violations.map((v) => `${what}: ${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`)).toEqual([]);
  expect(passes.length, `${what}: rules that had something to judge`).toBeGreaterThan(5);
}

/** Nothing may stick out of the window. */
async function withinWindow(page: Page): Promise<void> {
  const out = await page.evaluate(() => [
    document.documentElement.scrollWidth - window.innerWidth,
    document.documentElement.scrollHeight - window.innerHeight,
  ]);
  expect(out.every((v) => v <= 0)).toBe(true);
}

const SIZES = [
  { width: 820, height: 1180 },
  { width: 1100, height: 700 },
  { width: 1280, height: 800 },
  { width: 1920, height: 1080 },
];
/** Each size in one of the themes: colours do not depend on the size. */
const IN_THEME = { light: [SIZES[0]!, SIZES[2]!], dim: [SIZES[1]!, SIZES[3]!] };

test('the demo job opens from the server, and each screen passes the accessibility rules at every size, in both themes', async ({
  page,
}) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Open the demo job' }).click();
  await expect(page.locator('.card')).toContainText('9 pictures', { timeout: 60_000 });
  await expect(page.locator('.work')).toHaveCount(0);
  for (const theme of ['light', 'dim']) {
    await judge(page, `start, ${theme}`);
    await page.getByLabel('Light or dim theme').click();
  }
  await page.getByRole('link', { name: 'Contact sheet' }).click();
  await page.locator('ap-sheet-cell').first().click();
  for (const theme of ['light', 'dim'] as const) {
    for (const size of IN_THEME[theme]) {
      await page.setViewportSize(size);
      await judge(page, `contact sheet, ${theme}, ${size.width}`);
    }
    await page.getByLabel('Light or dim theme').click();
  }
  await page.locator('ap-sheet-cell').first().dblclick();
  await onBench(page);
  await openStep(page, 'Ease');
  await page.locator('ap-ease-edges .choice', { hasText: 'left' }).click();
  await page.getByLabel('keep the frame').check();
  for (const theme of ['light', 'dim'] as const) {
    for (const size of IN_THEME[theme]) {
      await page.setViewportSize(size);
      for (const step of ['Lens', 'References', 'Stance', 'Ease', 'Crop', 'Check', 'Export']) {
        await openStep(page, step);
        await judge(page, `${step}, ${theme}, ${size.width}`);
        await withinWindow(page);
      }
    }
    await page.getByLabel('Light or dim theme').click();
  }
  // forced colours and no motion: everything is there, and reads as it did
  await page.emulateMedia({ forcedColors: 'active', reducedMotion: 'reduce' });
  for (const step of ['References', 'Crop', 'Export']) {
    await openStep(page, step);
    // the colours are the system's then
    await judge(page, `${step}, forced colours`, ['color-contrast']);
  }
  await page.emulateMedia({ forcedColors: 'none', reducedMotion: 'no-preference' });
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toContainText('Quarter turn clockwise');
  await judge(page, 'help');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
});

test('the lens cabinet and the Lens step with its chart, edges and fringes pass them too', async ({ page }) => {
  await page.goto('/lenses');
  for (const name of ['hollin-zoom-18-35', 'hollin-fisheye-15'])
    await page.locator('header input[type=file]').setInputFiles({
      name: `${name}.lens.json`,
      mimeType: 'application/json',
      buffer: demoPicture(`lenses/${name}.lens.json`),
    });
  await page.locator('li', { hasText: 'Zoom' }).getByRole('checkbox').check();
  for (const size of SIZES) {
    await page.setViewportSize(size);
    await judge(page, `cabinet, ${size.width}`);
    await withinWindow(page);
  }
  await page.getByLabel('Light or dim theme').click();
  await judge(page, 'cabinet, dim');
  await openPicture(page, 'engine-hall.jpg', demoPicture('engine-hall.jpg'));
  await openStep(page, 'Lens');
  await expect(page.locator('ap-line-chart .main-svg').first()).toBeVisible();
  await judge(page, 'profile, dim');
  await page.keyboard.press('t');
  await judge(page, 'trace, dim');
  // a steep line asks what it is, on dark in both themes
  await openPicture(page, 'filter-gallery.jpg', demoPicture('filter-gallery.jpg'));
  const at = await onScreen(page, 3000);
  await dragLine(page, at([1500, 955]), at([780, 1972]));
  await expect(page.getByRole('group', { name: 'What is this line in reality?' })).toBeVisible();
  await judge(page, 'question, dim');
});

test('the Sheet screen and the scanner’s dialog pass them too', async ({ page }) => {
  await openPicture(page, 'loose-prints.jpg', demoPicture('loose-prints.jpg'));
  await page.getByRole('link', { name: 'Split the sheet' }).click();
  await expect(page.locator('ap-piece-list li')).toHaveCount(4);
  await page.locator('ap-piece-list li button').nth(1).click();
  await page.getByText('inside its border').click();
  for (const size of SIZES) {
    await page.setViewportSize(size);
    await judge(page, `sheet, ${size.width}`);
    await withinWindow(page);
  }
  await page.getByLabel('Light or dim theme').click();
  await judge(page, 'sheet, dim');
  await page.getByRole('link', { name: 'Contact sheet' }).click();
  await page.getByRole('button', { name: 'Scan', exact: true }).click();
  await expect(page.getByRole('dialog').getByLabel('Resolution')).toBeVisible();
  await judge(page, 'scan, dim');
});

test('a shim with its net and its lines, and what steers filling, pass them too', async ({ page }) => {
  await openPicture(page, 'reservoir.jpg', demoPicture('reservoir.jpg'));
  await typeRoll(page, '2.6');
  await page.keyboard.press('4');
  await page.keyboard.press('a');
  await dragLine(page, [380, 330], [760, 560]);
  await page.getByRole('button', { name: 'Line comes true' }).click();
  await dragLine(page, [480, 450], [640, 446]);
  await expect(page.locator('ap-ease-shims ap-segments')).toBeVisible();
  await judge(page, 'shim, light');
  await openStep(page, 'Crop');
  await page.getByRole('radio', { name: 'filled' }).click();
  await page.getByRole('button', { name: 'Not from here' }).click();
  await dragLine(page, [480, 350], [560, 420]);
  await expect(page.locator('ap-crop-fill .keep-row')).toHaveCount(1);
  await page.getByLabel('Light or dim theme').click();
  await judge(page, 'filled, dim');
  await openStep(page, 'Ease');
  await page.locator('ap-ease-shims .reads').click();
  await judge(page, 'shim, dim');
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

/** What the accessibility tree says of the element that has the keyboard. */
async function focused(session: CDPSession): Promise<{ role: string; name: string; value: string; key: string }> {
  const { result } = await session.send('Runtime.evaluate', { expression: 'document.activeElement' });
  const { nodes } = await session.send('Accessibility.getPartialAXTree', { objectId: result.objectId!, fetchRelatives: false });
  const [node] = nodes;
  const states = (node?.properties ?? []).filter(({ name }) => ['checked', 'pressed', 'expanded', 'selected'].includes(name));
  const value = [node?.value?.value as unknown, ...states.map(({ name, value: v }) => `${name} ${String(v.value)}`)].filter(
    (v) => v !== undefined,
  );
  return {
    role: String(node?.role?.value ?? ''),
    name: String(node?.name?.value ?? ''),
    value: value.map(String).join(', '),
    key: String(node?.backendDOMNodeId),
  };
}

test('every control of every screen is reached by the keyboard, and says its name, what it is, and what it is set to', async ({ page }) => {
  await openPicture(page, 'engine-hall.jpg', demoPicture('engine-hall.jpg'));
  const at = await onScreen(page, 3600);
  await dragLine(page, at([1400, 700]), at([1410, 1500]));
  const session = await page.context().newCDPSession(page);
  await session.send('Accessibility.enable');
  const walk = async (where: string): Promise<void> => {
    const seen = new Map<string, { role: string; name: string; value: string }>();
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    for (let i = 0; i < 160; i += 1) {
      await page.keyboard.press('Tab');
      // past the last one the keyboard is the browser's, then it begins anew
      if (await page.evaluate(() => document.activeElement === document.body)) continue;
      const control = await focused(session);
      if (seen.has(control.key)) break;
      seen.set(control.key, control);
    }
    const all = [...seen.values()];
    const nameless = all.filter(({ name }) => name.trim() === '');
    expect(nameless, `${where}: without a name`).toEqual([]);
    // what can be set says what it is set to
    const VALUED = ['checkbox', 'radio', 'switch', 'combobox', 'slider', 'textbox', 'spinbutton'];
    const mute = all.filter(({ role, value }) => VALUED.includes(role) && role !== 'textbox' && value === '');
    expect(mute, `${where}: without a value`).toEqual([]);
    expect(
      all.filter(({ role }) => role === 'generic'),
      `${where}: without a role`,
    ).toEqual([]);
    // whatever can be used was reached; of a row of choices the one that holds stands for all
    const missed = await page.evaluate(() => {
      const usable = 'button, input:not([type=file]), a[href], [role=combobox], [role=slider], [role=separator]';
      return Array.from(document.querySelectorAll<HTMLElement>(usable)).filter(
        (e) => e.offsetParent !== null && e.tabIndex >= 0 && !(e as HTMLButtonElement).disabled && e.getAttribute('aria-hidden') !== 'true',
      ).length;
    });
    expect(all.length, `${where}: reached ${all.length} of ${missed}`).toBeGreaterThanOrEqual(missed);
  };
  for (const step of ['Lens', 'References', 'Stance', 'Ease', 'Crop', 'Check', 'Export']) {
    await openStep(page, step);
    await walk(step);
  }
  await page.goto('/');
  await expect(page.locator('.card')).toHaveCount(1);
  await walk('start');
  await page.getByRole('link', { name: 'Contact sheet' }).click();
  await page.locator('ap-sheet-cell').first().click();
  await walk('contact sheet');
  await page.goto('/lenses');
  await expect(page.locator('ap-board-card')).toBeVisible();
  await walk('lens cabinet');
});
