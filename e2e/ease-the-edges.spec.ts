import type { Page } from '@playwright/test';
import sharp from 'sharp';
import { toPlane, type Warp } from '@able-plumb/core';
import {
  boxOf,
  demoTruth,
  drawEdges,
  expect,
  exportFile,
  leansInFile,
  openDemoPicture,
  openStep,
  planeOnScreen,
  ringTheHead,
  test,
  warpOf,
} from './support';

const hall = demoTruth('engine-hall');
const head = hall.heads![0]!;

/** Opens the engine hall of the demo job, its lens found, and stands it plumb and square by four lines. */
async function openHall(page: Page): Promise<void> {
  await openDemoPicture(page, 'engine-hall.jpg');
  await drawEdges(page, hall, ['left wall, pier 2, far', 'right wall, pier 2, near', 'floor joint 4 m', 'floor joint 6 m']);
}

/** Width of the head in a file at its middle, between where the wall's grey gives way to skin, px. */
async function headWidth(file: Buffer, warp: Warp): Promise<number> {
  const { data, info } = await sharp(file).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  const [left, top, right, bottom] = boxOf(head.outline.map((p) => warp.toOutput(...(p as [number, number]))!));
  const [cx, cy] = [(left + right) / 2, (top + bottom) / 2];
  // skin is warm, the wall is grey: how much red exceeds blue, five rows together, as a share of the red
  const warmth = (x: number): number => {
    let [warm, all] = [0, 0];
    for (let y = Math.round(cy) - 2; y <= Math.round(cy) + 2; y += 1) {
      const k = (y * info.width + x) * 3;
      warm += data[k]! - data[k + 2]!;
      all += data[k]! + 8;
    }
    return warm / all;
  };
  const middle = warmth(Math.round(cx));
  const edge = (step: 1 | -1): number => {
    for (let x = Math.round(cx); ; x += step) {
      const [here, next] = [warmth(x), warmth(x + step)];
      if (next < middle / 2) return x + step * ((here - middle / 2) / (here - next));
      if (Math.abs(x - cx) > right - left) throw new Error('no edge of the head');
    }
  };
  return edge(1) - edge(-1);
}

for (const { way, levels } of [
  { way: 'Edge', levels: true },
  { way: 'Projection', levels: false },
]) {
  test(`a head at the edge of the engine hall comes true in the exported file when this gives way: ${way}`, async ({ page }) => {
    await openHall(page);
    await page.keyboard.press('4');
    await ringTheHead(page, head.outline);
    await expect(page.locator('ap-ease-rings')).toContainText(/Ring 1: (2[89]|3\d) % too wide/);
    const before = await warpOf(page);
    const flat = await exportFile(page, 'PNG');
    const leansBefore = await leansInFile(page, hall, flat.file);
    const [, top, , bottom] = boxOf(head.outline.map((p) => before.warp.toOutput(...(p as [number, number]))!));
    expect((await headWidth(flat.file, before.warp)) / (bottom - top) / head.proportion).toBeGreaterThan(1.2);
    await openStep(page, 'Ease');
    await page.locator('.way-row', { hasText: way }).click();
    await expect(page.locator('ap-ease-rings')).toContainText('Ring 1: true');
    await expect(page.locator('ap-ease-rings .reads')).toBeFocused();
    const said = page.locator('.bends');
    await expect(said).toContainText(levels ? 'Plumb lines and levels stay straight.' : 'Plumb lines stay straight. Levels bend up to');
    await expect(said).toContainText(/bliques bend up to \d+ px/);
    const { file } = await exportFile(page, 'PNG');
    const { warp } = await warpOf(page);
    const shown = boxOf(head.outline.map((p) => warp.toOutput(...(p as [number, number]))!));
    const height = shown[3] - shown[1];
    expect(Math.abs((shown[2] - shown[0]) / height / head.proportion - 1)).toBeLessThan(0.03);
    // in the file's own pixels; one of them is 2 % of the head
    expect(Math.abs((await headWidth(file, warp)) / height / head.proportion - 1)).toBeLessThan(0.05);
    // no vertical leans more than the lines that were drawn left it
    const leans = await leansInFile(page, hall, file);
    leans.forEach((lean, i) => expect(Math.abs(lean)).toBeLessThan(Math.abs(leansBefore[i]!) + 0.02));
  });
}

test('an edge by hand: placed, dragged, its neighbour gives the room, the file keeps its size; a ring by keys; each step undone alone', async ({
  page,
}) => {
  await openHall(page);
  const size = (await warpOf(page)).warp.outputSize;
  await openStep(page, 'Ease');
  await page.locator('ap-ease-edges .choice', { hasText: 'right' }).click();
  await page.getByLabel('Narrower', { exact: true }).fill('20');
  await page.getByLabel('Narrower', { exact: true }).press('Enter');
  await expect(page.locator('ap-step-string')).toContainText('1 edge');
  // dragged by its line, without the magnet: under the pointer afterwards
  const grip = (await page.locator('.boundary .ring').boundingBox())!;
  await page.keyboard.down('n');
  await page.mouse.move(grip.x + grip.width / 2, grip.y + 120);
  await page.mouse.down();
  await page.mouse.move(grip.x + grip.width / 2 - 60, grip.y + 120, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.up('n');
  const first = (await warpOf(page)).correction.ease.edges[0]!;
  expect(first.amount).toBe(0.2);
  // with the magnet, looking for an edge that hides it: still one gesture, and one step back takes all of it
  const again = (await page.locator('.boundary .ring').boundingBox())!;
  const pier = hall.edges.find((e) => e.name === 'right wall, pier 2, near')!;
  const { warp: before } = await warpOf(page);
  const there = toPlane(before, [(pier.a[0] + pier.b[0]) / 2, (pier.a[1] + pier.b[1]) / 2])!;
  const [x] = (await planeOnScreen(page, before))(there);
  await page.mouse.move(again.x + again.width / 2, again.y + 120);
  await page.mouse.down();
  await page.mouse.move(x + 1.5, again.y + 120, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => (await warpOf(page)).correction.ease.edges[0]!.at).not.toEqual(first.at);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await warpOf(page)).correction.ease.edges[0]!.at).toEqual(first.at);
  await page.getByLabel('keep the frame').check();
  await expect(page.locator('ap-ease-edges')).toContainText(/widened up to 1\.\d\d times/);
  const roomy = await warpOf(page);
  // the frame is kept: the file is as large as before anything was eased, but for a re-fit along slanted sides
  expect(Math.abs(roomy.warp.outputSize.width / size.width - 1)).toBeLessThan(0.02);
  const { file } = await exportFile(page, 'PNG');
  expect((await sharp(file).metadata()).width).toBe(roomy.warp.outputSize.width);
  // by keys alone: a ring, shaped, removed
  await page.keyboard.press('4');
  await page.keyboard.press('f');
  await page.locator('ap-stage .area').focus();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Enter');
  for (let i = 0; i < 3; i += 1) await page.keyboard.press('Control+ArrowRight');
  for (let i = 0; i < 2; i += 1) await page.keyboard.press('Control+ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.locator('ap-ease-rings .reads')).toHaveCount(1);
  await expect(page.locator('.loupe')).toHaveCount(0);
  const drawn = (await warpOf(page)).correction.ease.rings[0]!;
  await page.keyboard.press('e');
  await page.keyboard.press('e');
  await page.keyboard.press('Shift+ArrowRight');
  const shaped = (await warpOf(page)).correction.ease.rings[0]!;
  expect(shaped.centre).toEqual(drawn.centre);
  expect(shaped.right[0]).toBeGreaterThan(drawn.right[0] + 2);
  await page.keyboard.press('Delete');
  await expect(page.locator('ap-ease-rings .reads')).toHaveCount(0);
  // back: the removal, the nudge, the ring, the room, the drag
  for (let i = 0; i < 5; i += 1) await page.keyboard.press('Control+z');
  const back = (await warpOf(page)).correction.ease;
  expect(back.rings).toEqual([]);
  expect(back.edges[0]!.room).toBeNull();
  expect(back.edges[0]!.at).not.toEqual(first.at);
  await page.getByRole('button', { name: 'Reset', exact: true }).click();
  await expect(page.locator('ap-step-string')).toContainText('nothing eased');
  expect((await warpOf(page)).warp.outputSize).toEqual(size);
});
