import { matrixProfile, writePicture, type Primaries } from '@able-plumb/codecs';
import { expect, onScreen, openStep, openPicture, test } from './support';

/** Primaries adapted to D50: ROMM RGB (ISO 22028-2) and Adobe RGB (1998), from memory. */
const SPACES: readonly { readonly name: string; readonly primaries: Primaries; readonly gamma: number }[] = [
  {
    name: 'ProPhoto',
    primaries: [
      [0.79767, 0.28804, 0],
      [0.13519, 0.71188, 0],
      [0.03134, 0.00009, 0.82491],
    ],
    gamma: 1.8,
  },
  {
    name: 'Adobe RGB (1998)',
    primaries: [
      [0.60974, 0.31111, 0.01947],
      [0.20528, 0.62567, 0.06087],
      [0.14919, 0.06322, 0.74457],
    ],
    gamma: 2.19921875,
  },
];
/** Colours that lie inside sRGB in both: stone, brick, slate, moss, greys. */
const PATCHES: readonly (readonly [number, number, number])[] = [
  [150, 140, 120],
  [120, 85, 70],
  [70, 80, 95],
  [95, 110, 80],
  [40, 40, 40],
  [128, 128, 128],
  [215, 214, 212],
  [130, 110, 140],
];
const [SIDE, W, H] = [150, 600, 300];

for (const { name, primaries, gamma } of SPACES)
  test(`a file in ${name} looks on stage, loupe, check and contact sheet as the browser itself shows it, within 3 steps`, async ({
    page,
  }) => {
    const data = Buffer.alloc(W * H * 3);
    for (let y = 0; y < H; y += 1)
      for (let x = 0; x < W; x += 1) data.set(PATCHES[Math.floor(y / SIDE) * 4 + Math.floor(x / SIDE)]!, (y * W + x) * 3);
    const icc = matrixProfile(name, primaries, (v) => v ** gamma);
    const file = Buffer.from(
      await writePicture({ width: W, height: H, channels: 3, data }, { kind: 'png', bits: 8 }, { metadata: { icc } }),
    );
    await openPicture(page, 'patches.png', file);
    const theirs = await page.evaluate(
      async ({ bytes, centres }) => {
        const bitmap = await createImageBitmap(new Blob([new Uint8Array(bytes)], { type: 'image/png' }));
        const context = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d')!;
        context.drawImage(bitmap, 0, 0);
        return centres.map(([x, y]) => [...context.getImageData(x!, y!, 1, 1).data].slice(0, 3));
      },
      { bytes: [...file], centres: PATCHES.map((_, k) => [(k % 4) * SIDE + 75, Math.floor(k / 4) * SIDE + 75]) },
    );
    // it is not what the samples say
    expect(Math.max(...theirs.map((rgb, k) => Math.max(...rgb.map((v, c) => Math.abs(v - PATCHES[k]![c]!)))))).toBeGreaterThan(8);
    const compare = (ours: readonly (readonly number[])[], where: string, within = 3): void =>
      ours.forEach((rgb, k) =>
        rgb.forEach((v, c) => expect(Math.abs(v - theirs[k]![c]!), `${where}, ${k}, ${c}`).toBeLessThanOrEqual(within)),
      );
    const at = await onScreen(page, W);
    const stage = (await page.locator('ap-stage .area').boundingBox())!;
    const onCanvas = (selector: string, points: readonly (readonly [number, number])[]): Promise<number[][]> =>
      page.evaluate(
        ({ selector: which, points: places }) => {
          const canvas = document.querySelector<HTMLCanvasElement>(which)!;
          const box = canvas.getBoundingClientRect();
          return places.map(([x, y]) =>
            [
              ...canvas
                .getContext('2d')!
                .getImageData(Math.round((x! * canvas.width) / box.width), Math.round((y! * canvas.height) / box.height), 1, 1).data,
            ].slice(0, 3),
          );
        },
        { selector, points },
      );
    const centres = PATCHES.map((_, k): readonly [number, number] => {
      const [x, y] = at([(k % 4) * SIDE + 75, Math.floor(k / 4) * SIDE + 75]);
      return [x - stage.x, y - stage.y];
    });
    compare(await onCanvas('ap-stage .area > canvas', centres), 'stage');
    // the loupe, over the middle of the second patch
    await page.mouse.move(...at([225, 75]));
    await page.mouse.down();
    await page.mouse.move(...at([226, 76]));
    await expect(page.locator('.loupe canvas')).toBeVisible();
    const loupe = (await page.locator('.loupe canvas').boundingBox())!;
    // beside its cross
    const beside = async (): Promise<number[]> => (await onCanvas('.loupe canvas', [[loupe.width / 2 + 20, loupe.height / 2 + 20]]))[0]!;
    await expect.poll(async () => Math.max(...(await beside()).map((v, c) => Math.abs(v - theirs[1]![c]!)))).toBeLessThanOrEqual(3);
    await page.keyboard.press('Escape');
    await page.mouse.up();
    // close up, where the original's own pixels are drawn
    await openStep(page, 'Check');
    // the original's side of the wipe, once it is drawn
    await expect(page.locator('ap-stage canvas.compared')).toBeVisible();
    await expect.poll(async () => (await onCanvas('ap-stage canvas.compared', centres))[0]![0]).toBeGreaterThan(0);
    compare(await onCanvas('ap-stage canvas.compared', centres), 'check');
    await page.getByRole('radio', { name: 'result' }).click();
    for (let k = 0; k < 12; k += 1) await page.keyboard.press('+');
    await expect.poll(async () => parseFloat((await page.locator('.zoom .value').textContent())!)).toBeGreaterThan(500);
    await page.waitForTimeout(600);
    // the middle lies between the second and third patch of both rows
    const close = await onCanvas('ap-stage .area > canvas', [[stage.width / 2 - 40, stage.height / 2 - 40]]);
    close[0]!.forEach((v, c) => expect(Math.abs(v - theirs[1]![c]!), `close, ${c}`).toBeLessThanOrEqual(3));
    await page.locator('[aria-label="Contact sheet"]').click();
    await expect(page.locator('ap-sheet-cell canvas:not(.empty)')).toHaveCount(1);
    const cell = (await page.locator('ap-sheet-cell canvas').boundingBox())!;
    // small pictures are JPEGs: a little more
    compare(
      await onCanvas(
        'ap-sheet-cell canvas',
        PATCHES.map((_, k) => [(((k % 4) + 0.5) * cell.width) / 4, ((Math.floor(k / 4) + 0.5) * cell.height) / 2]),
      ),
      'contact sheet',
      5,
    );
  });
