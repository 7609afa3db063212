import { describe, expect, it } from 'vitest';
import { blankRaster, fitCorner, halveRaster, type Point, type Raster } from '../index';

/** A bright turned rectangle's corner at `corner` on a dark ground, sampled 8 x 8 a pixel, with noise; pyramid as the picture has it. */
function cornered(corner: Point, turnDeg: number, openingDeg: number): Raster[] {
  const [width, height] = [700, 500];
  const raster = blankRaster(width, height, 1, 8);
  const rad = Math.PI / 180;
  const [n1, n2] = [turnDeg * rad, (turnDeg + openingDeg) * rad].map((t) => [-Math.sin(t), Math.cos(t)] as const);
  let noise = 11;
  for (let j = 0; j < height; j += 1) {
    for (let i = 0; i < width; i += 1) {
      let inside = 0;
      for (let b = 0; b < 8; b += 1) {
        for (let a = 0; a < 8; a += 1) {
          const [x, y] = [i + (a + 0.5) / 8 - corner[0], j + (b + 0.5) / 8 - corner[1]];
          if (x * n1![0] + y * n1![1] > 0 && x * n2![0] + y * n2![1] < 0) inside += 1;
        }
      }
      noise = (noise * 1103515245 + 12345) & 0x7fffffff;
      raster.data[j * width + i] = Math.round(60 + (inside / 64) * 120 + ((noise >> 8) % 7) - 3);
    }
  }
  const levels = [raster];
  while (levels[levels.length - 1]!.width > 200) levels.push(halveRaster(levels[levels.length - 1]!));
  return levels;
}

describe('fitting a corner', () => {
  it('finds it to a third of a pixel from a click up to 25 px off, whatever its opening and turn', () => {
    for (const [turn, opening] of [
      [3, 90],
      [20, 75],
      [-35, 110],
    ] as const) {
      const corner: Point = [331.3, 247.8];
      const levels = cornered(corner, turn, opening);
      for (const [dx, dy] of [
        [0, 0],
        [14, -9],
        [-18, 16],
      ] as const) {
        const found = fitCorner(levels, [corner[0] + dx, corner[1] + dy], 30);
        expect(found, `${turn} ${opening} ${dx}`).not.toBeNull();
        expect(Math.hypot(found![0] - corner[0], found![1] - corner[1]), `${turn} ${opening} ${dx}`).toBeLessThan(0.34);
      }
    }
  });

  it('stays where it was pointed at when there is only an edge, only noise, or the corner is out of reach', () => {
    const levels = cornered([331.3, 247.8], 3, 90);
    expect(fitCorner(levels, [560, 259.6], 20)).toBeNull();
    expect(fitCorner(levels, [100, 90], 20)).toBeNull();
    expect(fitCorner(levels, [420, 340], 30)).toBeNull();
  });
});
