import { readFileSync, readdirSync } from 'node:fs';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { sampleBoards } from '../../tools/sample-boards';
import {
  bestLine,
  blankRaster,
  calibrateBoard,
  findBoard,
  halveRaster,
  lensOf,
  readLensFile,
  type BoardCalibration,
  type BoardView,
  type Point,
  type Raster,
} from '../index';

/* Thirteen pictures of one checkerboard and their published calibration: the sample data of OpenCV, in Debian's opencv-doc. */
const folder = sampleBoards();
const board = { across: 9, down: 6 };
const size = { width: 640, height: 480 };

async function grey(file: string): Promise<Raster> {
  const { data, info } = await sharp(folder + file)
    .greyscale()
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, channels: 1, data: new Uint8Array(data) };
}

describe('a lens from checkerboards', () => {
  const views: BoardView[] = [];
  let calibration: BoardCalibration;
  beforeAll(async () => {
    for (const name of readdirSync(folder)
      .filter((file) => /^left\d+\.jpg$/.test(file))
      .sort()) {
      const corners = findBoard(await grey(name), board);
      if (corners) views.push({ name, corners });
    }
    calibration = calibrateBoard(views, board.across, size);
  }, 120_000);

  it('finds the whole board in every one of the thirteen pictures, never as its mirror image', () => {
    expect(views).toHaveLength(13);
    for (const { corners, name } of views) {
      const [o, across, down] = [corners[0]!, corners[8]!, corners[45]!];
      const turn = (across[0] - o[0]) * (down[1] - o[1]) - (across[1] - o[1]) * (down[0] - o[0]);
      expect(turn, name).toBeGreaterThan(0);
    }
  });

  it('agrees with the published calibration: focal length to 0.8 %, centre to 3 px; 0.25 px or less remain (published 0.39)', async () => {
    const { model } = (await readLensFile(readFileSync(`${folder}left_intrinsics.yml`, 'utf8'), 'left_intrinsics.yml', 'x')).rows[0]!;
    const published = model as BoardCalibration['model'];
    expect(Math.abs(calibration.model.fx / published.fx - 1)).toBeLessThan(0.008);
    expect(Math.abs(calibration.model.fy / published.fy - 1)).toBeLessThan(0.008);
    expect(Math.hypot(calibration.model.cx - published.cx, calibration.model.cy - published.cy)).toBeLessThan(3);
    expect(calibration.errorPx).toBeLessThan(0.25);
    expect(Math.max(...calibration.views.map((v) => v.errorPx))).toBeLessThan(0.4);
  });

  it('straightens the rows and columns of every board: bowed by less than 0.2 px root mean square, from more than half a pixel', () => {
    const out = new Float64Array(2);
    const bowRms = (undistort: (p: Point) => Point): number => {
      let [sum, count] = [0, 0];
      for (const { corners } of views) {
        const lines = [
          ...Array.from({ length: 6 }, (_, j) => corners.slice(9 * j, 9 * j + 9)),
          ...Array.from({ length: 9 }, (_, i) => corners.filter((_c, k) => k % 9 === i)),
        ];
        for (const line of lines.map((points) => points.map(undistort))) {
          const { normal, c } = bestLine(line);
          for (const [x, y] of line) sum += (normal[0] * x + normal[1] * y - c) ** 2;
          count += line.length;
        }
      }
      return Math.sqrt(sum / count);
    };
    const lens = lensOf(calibration.model, size);
    expect(bowRms((p) => p)).toBeGreaterThan(0.5);
    expect(bowRms(([x, y]) => (lens.undistort(x, y, out) ? [out[0]!, out[1]!] : [NaN, NaN]))).toBeLessThan(0.2);
  });

  it('finds nothing where no such board is: another size, a plain picture, a board cut off', async () => {
    const picture = await grey('left01.jpg');
    expect(findBoard(picture, { across: 7, down: 5 })).toBeNull();
    expect(findBoard(blankRaster(400, 300, 1, 8), board)).toBeNull();
    const half = { ...picture, height: 240, data: picture.data.slice(0, 640 * 240) };
    expect(findBoard(half, board)).toBeNull();
    expect(findBoard(halveRaster(picture), board)).not.toBeNull();
  });

  it('says so when there are too few pictures, or all face the board alike', () => {
    expect(() => calibrateBoard(views.slice(0, 2), 9, size)).toThrow(/found in 2 pictures/);
    const flat = (x: number, y: number, square: number): BoardView => ({
      name: `${x}`,
      corners: Array.from({ length: 54 }, (_, k) => [x + (k % 9) * square, y + Math.floor(k / 9) * square] as const),
    });
    expect(() => calibrateBoard([flat(100, 80, 30), flat(150, 100, 40), flat(60, 60, 55)], 9, size)).toThrow(
      /do not tell the focal length/,
    );
  });
});
