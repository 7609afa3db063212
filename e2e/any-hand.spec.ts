import type { CDPSession, Page } from '@playwright/test';
import { expect, exportFile, horizonSlopeDeg, onScreen, openStep, openPicture, slippingHorizon, test } from './support';

type P = readonly [number, number];

test.use({ hasTouch: true });

/** Fingers on the screen, as the browser's own protocol gives them. */
class Fingers {
  constructor(private readonly session: CDPSession) {}
  private send(type: 'touchStart' | 'touchMove' | 'touchEnd', points: readonly P[]): Promise<unknown> {
    return this.session.send('Input.dispatchTouchEvent', { type, touchPoints: points.map(([x, y], id) => ({ x, y, id })) });
  }
  down = (...points: readonly P[]): Promise<unknown> => this.send('touchStart', points);
  move = (...points: readonly P[]): Promise<unknown> => this.send('touchMove', points);
  up = (...left: readonly P[]): Promise<unknown> => this.send('touchEnd', left);
  async drag(a: P, b: P): Promise<void> {
    await this.down(a);
    for (let k = 1; k <= 6; k += 1) await this.move([a[0] + ((b[0] - a[0]) * k) / 6, a[1] + ((b[1] - a[1]) * k) / 6]);
    await this.up();
  }
}

const fingersOf = async (page: Page): Promise<Fingers> => new Fingers(await page.context().newCDPSession(page));
const zoomOf = async (page: Page): Promise<number> => parseFloat((await page.locator('.zoom .value').textContent())!);
const linesOf = (page: Page): Promise<number> => page.locator('ap-references-step tbody tr').count();

for (const [width, height] of [
  [1024, 768],
  [820, 1180],
] as const)
  test(`with fingers at ${width} x ${height}: one draws, two zoom and pan and never draw, the loupe stands above`, async ({ page }) => {
    await page.setViewportSize({ width, height });
    const [w, h, slip] = [900, 600, 1.7];
    await openPicture(page, 'sea.png', await slippingHorizon(w, h, slip));
    const fingers = await fingersOf(page);
    const at = await onScreen(page, w);
    const rise = (x: number): number => h / 2 - (x - w / 2) * Math.tan((slip * Math.PI) / 180);

    // two fingers: larger, and what lay between them still does; nothing is drawn
    const before = await zoomOf(page);
    const middle = at([450, 300]);
    const spread = (by: number): readonly [P, P] => [
      [middle[0] - by, middle[1]],
      [middle[0] + by, middle[1]],
    ];
    await fingers.down(spread(40)[0]);
    await fingers.down(...spread(40));
    for (const by of [55, 70, 80]) await fingers.move(...spread(by));
    await fingers.up();
    expect(await zoomOf(page)).toBeCloseTo(before * 2, -1);
    expect(await linesOf(page)).toBe(0);
    const fitted = async (): Promise<void> => {
      await page.locator('.zoom .value').tap();
      await expect.poll(() => zoomOf(page)).toBeCloseTo(before, 0);
    };
    await fitted();

    // a second finger while drawing takes the draft back
    await fingers.down(at([100, rise(100)]));
    await fingers.move(at([300, rise(300)]));
    await expect(page.locator('.loupe')).toBeVisible();
    const [loupe, tip] = [await page.locator('.loupe').boundingBox(), at([300, rise(300)])];
    expect(loupe!.y + loupe!.height).toBeLessThan(tip[1] - 30);
    await fingers.down(at([300, rise(300)]), at([500, 200]));
    await fingers.move(at([280, rise(280)]), at([520, 180]));
    await fingers.up();
    await expect(page.locator('.loupe')).toHaveCount(0);
    expect(await linesOf(page)).toBe(0);
    await fitted();

    // a pen that comes while a finger draws has no part in it, and draws by itself afterwards
    const pen = (type: string, [x, y]: P): Promise<void> =>
      page.locator('ap-stage .area').evaluate(
        (area, { type: what, x: clientX, y: clientY }) => {
          const init = {
            pointerId: 77,
            pointerType: 'pen',
            isPrimary: true,
            button: 0,
            buttons: 1,
            bubbles: true,
            cancelable: true,
            clientX,
            clientY,
          };
          // the browser knows no pen here: its capture is the area's own
          Object.assign(area, { setPointerCapture: () => undefined });
          area.dispatchEvent(new PointerEvent(what, init));
        },
        { type, x, y },
      );
    await fingers.down(at([80, rise(80)]));
    await fingers.move(at([200, rise(200)]));
    await pen('pointerdown', at([450, 100]));
    await pen('pointermove', at([460, 560]));
    await pen('pointerup', at([460, 560]));
    expect(await linesOf(page)).toBe(0);
    await fingers.move(at([820, rise(820)]));
    await fingers.up();
    await expect(page.locator('ap-references-step tbody tr')).toHaveCount(1);
    await expect(page.locator('ap-references-step tbody tr')).toContainText('Level 1');
    await page.keyboard.press('Control+z');
    await expect(page.locator('ap-references-step tbody tr')).toHaveCount(0);
    for (const [type, point] of [
      ['pointerdown', [200, 150]],
      ['pointermove', [205, 300]],
      ['pointerup', [210, 480]],
    ] as const)
      await pen(type, at(point));
    await expect(page.locator('ap-references-step tbody tr')).toHaveCount(1);
    await page.keyboard.press('Control+z');
    await expect(page.locator('ap-references-step tbody tr')).toHaveCount(0);

    // one finger draws
    const now = await onScreen(page, w);
    await fingers.drag(now([80, rise(80)]), now([820, rise(820)]));
    await expect(page.locator('ap-references-step tbody tr')).toHaveCount(1);
    const { file } = await exportFile(page, 'PNG', async () => page.getByRole('button', { name: 'Export', exact: true }).tap());
    expect(Math.abs(await horizonSlopeDeg(file))).toBeLessThan(0.06);

    // what a finger presses is large enough, wherever it stands
    for (const step of ['References', 'Crop', 'Export']) {
      await openStep(page, step);
      const small = await page.locator('aside button:visible, header button:visible').evaluateAll((buttons) =>
        buttons.flatMap((button) => {
          const box = button.getBoundingClientRect();
          return box.height >= 43.5 || box.height === 0
            ? []
            : [`${button.textContent?.trim() || button.getAttribute('aria-label')}: ${box.height}`];
        }),
      );
      expect(small, step).toEqual([]);
    }
    const overflow = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
    expect(overflow).toBe(0);
  });
