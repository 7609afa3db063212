/* Takes the pictures in docs/screenshots from the demo job. The application must be built. */
import { mkdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium } from '@playwright/test';
import { useNativeJpeg, useNodeCodecs } from '@able-plumb/codecs/node';
import { listen } from '@able-plumb/server';
import { startScanner } from '@able-plumb/server/scanner';
import { toPlane } from '@able-plumb/core';
import {
  demoPicture,
  demoTruth,
  dragLine,
  drawEdges,
  onBench,
  onScreen,
  planeOnScreen,
  ringTheHead,
  pick,
  setUp,
  warpOf,
} from '../support';
import { testBrowser } from '../../scripts/setup.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
const folder = join(root, 'docs/screenshots');
mkdirSync(folder, { recursive: true });

useNodeCodecs();
useNativeJpeg();
const scanner = await startScanner({ pictures: join(root, 'demo/job'), seconds: 6, seed: 4 });
const { server, address } = await listen(
  { app: join(root, 'dist/app/browser'), demo: join(root, 'demo/job'), scanners: [scanner.address] },
  0,
);
const browser = await chromium.launch({
  executablePath: testBrowser() ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, serviceWorkers: 'block' });
const shot = async (name: string): Promise<void> => {
  await page.waitForTimeout(700);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  process.stdout.write(`${name}.png\n`);
};
const step = async (name: string): Promise<void> => {
  await page.locator('ap-step-string').getByText(name, { exact: true }).click();
  // what a tooltip says is not the view
  await page.mouse.move(690, 788);
};

await page.goto(address);
await page.getByRole('button', { name: 'Open the demo job' }).click();
await page.locator('.card').getByText('9 pictures').waitFor({ timeout: 60_000 });
await page.locator('.work').waitFor({ state: 'detached' });
await shot('start');
await page.locator('.thumbs').click();
await onBench(page);
await page.waitForTimeout(800);
const truth = demoTruth('reservoir');
const line = truth.edges[0]!;
const at = await onScreen(page, truth.width);
await page.mouse.move(...at([line.a[0] + 60, line.a[1]]));
await page.mouse.down();
await page.mouse.move(...at([line.b[0] - 500, line.b[1] + 11]), { steps: 6 });
await shot('bench-drawing');
await page.keyboard.press('Escape');
await page.mouse.up();
await dragLine(page, at([line.a[0] + 60, line.a[1]]), at([line.b[0] - 60, line.b[1]]));
await page.mouse.move(600, 740);
await shot('bench-references');
await step('Crop');
await shot('bench-crop');
await step('Export');
await shot('bench-export');
await page.keyboard.press('?');
await page.getByRole('dialog').waitFor();
await page.mouse.move(600, 790);
await shot('keys-and-words');
await page.keyboard.press('Escape');
await page.getByRole('dialog').waitFor({ state: 'detached' });
// the pump hall square-on, by four lines on the original
await page.keyboard.press('PageDown');
await page.locator('h1').getByText('pump-hall-front.jpg').waitFor();
await onBench(page);
await page.waitForTimeout(800);
const hall = demoTruth('pump-hall-front');
await page.getByRole('radio', { name: 'original' }).click();
await page.keyboard.down('Shift');
for (const k of [0, 3, 6, 9]) {
  const place = await onScreen(page, hall.width);
  await dragLine(page, place(hall.edges[k]!.a), place(hall.edges[k]!.b));
  await page.waitForTimeout(500);
}
await page.keyboard.up('Shift');
await page.getByRole('radio', { name: 'result' }).click();
await page.mouse.move(600, 740);
await page.waitForTimeout(800);
await shot('bench-square-on');
await step('Stance');
await shot('bench-stance-all');
await step('Check');
await page.locator('ap-check-step ap-line-chart .bars').first().waitFor();
await shot('bench-check');
/** Opens a picture of the demo job by its name. */
async function openDemo(name: string): Promise<void> {
  await page.goto(address);
  await page.locator('.thumbs').waitFor();
  await page.locator('.thumbs').click();
  await onBench(page);
  // a job opens where it was left: to its start, then on
  for (const key of ['PageUp', 'PageDown']) {
    for (let k = 0; k < 8 && (await page.locator('h1').textContent()) !== name; k += 1) {
      await page.keyboard.press(key);
      await page.waitForTimeout(700);
    }
  }
  await page.locator('h1').getByText(name).waitFor();
  await onBench(page);
  await page.waitForTimeout(800);
}

// the stair: middle plumb, guides and grid, the work light
await openDemo('stair.jpg');
await setUp(page, 'turn only');
await drawEdges(page, demoTruth('stair'), ['far corner, left', 'far corner, right', 'tread 4', 'tread 12']);
await page.keyboard.press('w');
await pick(page, 'Grid', '10 %');
await page.mouse.move(182, 400);
await page.mouse.down();
await page.mouse.move(570, 420, { steps: 4 });
await page.mouse.up();
await page.mouse.move(600, 780);
await shot('bench-work-light');

// the engine hall: its profile, then the cabinet
await openDemo('engine-hall.jpg');
await step('Lens');
await page.locator('ap-line-chart .main-svg').first().waitFor();
await shot('bench-lens');
// its engineman, far too wide at the edge: a ring, and what may give
const engines = demoTruth('engine-hall');
await step('References');
await drawEdges(page, engines, ['left wall, pier 2, far', 'right wall, pier 2, near', 'floor joint 4 m', 'floor joint 6 m']);
await step('Ease');
await ringTheHead(page, engines.heads![0]!.outline);
await page.locator('.way-row').first().waitFor();
await page.mouse.move(600, 745);
await shot('bench-ease');
// a kerb that has come down beside the name plate: level by a line in a shim
await openDemo('name-plate.jpg');
const sunk = (JSON.parse(demoPicture('name-plate.truth.json').toString()) as { sunk: { a: [number, number]; b: [number, number] }[] })
  .sunk[0]!;
await step('References');
await drawEdges(page, demoTruth('name-plate'), ['plate, left', 'plate, right', 'plate, top', 'plate, bottom']);
await step('Ease');
const plain = (await warpOf(page)).warp;
const [kerbA, kerbB] = [toPlane(plain, sunk.a)!, toPlane(plain, sunk.b)!];
const onPlate = await planeOnScreen(page, plain);
await page.keyboard.press('a');
await dragLine(page, onPlate([kerbA[0] + 120, kerbA[1] - 210]), onPlate([kerbB[0] + 260, kerbB[1] + 230]));
await page.getByRole('button', { name: 'Line comes true' }).click();
await dragLine(page, onPlate([kerbA[0], kerbA[1]]), onPlate([kerbB[0], kerbB[1]]));
await page.locator('ap-ease-shims small').getByText('under 0.1 px').waitFor();
await page.mouse.move(690, 788);
await shot('shim');

// the water tower, its crop drawn higher than the picture reaches: the sky goes on, the tower is not copied
await openDemo('water-tower.jpg');
const tower = demoTruth('water-tower');
await step('References');
await drawEdges(page, tower, ['left pier, outer', 'right pier, outer', 'first string course', 'corbel table, upper']);
await step('Crop');
await page.getByRole('radio', { name: 'filled' }).click();
await page.locator('svg[ap-fill-marks] image').waitFor();
const frame = (await warpOf(page)).warp;
const onTower = await planeOnScreen(page, frame);
const middle = [frame.crop.x + frame.crop.width / 2, frame.crop.y + frame.crop.height / 2] as const;
await dragLine(page, onTower([middle[0], middle[1]]), onTower([middle[0] + 120, middle[1] - 2000]));
await page.waitForTimeout(3000);
const tank = (JSON.parse(demoPicture('water-tower.truth.json').toString()) as { panels: { corners: [number, number][] }[] }).panels[0]!;
const left = tank.corners.map((p) => toPlane(frame, p)!);
await page.getByRole('button', { name: 'Not from here' }).click();
await dragLine(page, onTower([left[0]![0] - 250, left[0]![1] - 900]), onTower([left[2]![0] + 250, left[2]![1] + 700]));
await page.waitForTimeout(3000);
await page.mouse.move(690, 788);
await shot('fill');

await page.goto(`${address}lenses`);
await page.locator('.card', { hasText: 'Hollin Zoom' }).click();
await page.locator('li', { hasText: 'Hollin 45 mm' }).getByRole('checkbox').check();
await page.mouse.move(900, 700);
await shot('lens-cabinet');
// the contact sheet, with what was set above, and a linked pair
await page.goto(address);
await page.getByRole('link', { name: 'Contact sheet' }).first().click();
await page.locator('ap-sheet-cell canvas:not(.empty)').nth(7).waitFor();
await page.locator('ap-sheet-cell').nth(1).click();
await page
  .locator('ap-sheet-cell')
  .nth(3)
  .click({ modifiers: ['Control'] });
await page.keyboard.press('Control+a');
await page.getByRole('button', { name: 'Find lines' }).click();
await page.getByText(/\d sure, \d not/).waitFor({ timeout: 120_000 });
await page.mouse.move(1120, 790);
await page.waitForTimeout(600);
await shot('contact-sheet');
await page.locator('ap-sheet-cell', { hasText: 'pump-hall-front.jpg' }).dblclick();
await onBench(page);
await page.getByRole('button', { name: /suggestions? of the picture/ }).waitFor({ timeout: 60_000 });
await page.keyboard.press('j');
await page.getByRole('group', { name: 'Suggestions' }).getByRole('button').first().waitFor();
await page.mouse.move(690, 788);
await shot('bench-suggestions');
// a scan as it comes, and its prints
await page.goto(address);
await page.getByRole('button', { name: 'Scan', exact: true }).click();
await page.getByRole('dialog').getByRole('button', { name: 'Scan', exact: true }).click();
await page.getByText(/MB have come/).waitFor({ timeout: 60_000 });
await page.mouse.move(640, 790);
await shot('scanning');
await page.waitForURL('**/sheet/**', { timeout: 60_000 });
await page.goto(address);
await page.locator('.thumbs').last().click();
await onBench(page);
await page.locator('.where .job').click();
await page.getByRole('menuitem', { name: 'loose-prints.jpg' }).click();
await onBench(page);
await page.getByRole('link', { name: 'Split the sheet' }).click();
await page.locator('ap-piece-list li').nth(3).waitFor({ timeout: 60_000 });
await page.getByText('inside its border').click();
await page.locator('ap-piece-list li button').nth(1).click();
await page.mouse.move(690, 788);
await page.waitForTimeout(1500);
await shot('sheet');
await browser.close();
server.close();
scanner.server.close();
