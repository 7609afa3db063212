import type { Raster } from '@able-plumb/core';
import type { Heap } from './heaps/compose-heap';

/** The second sheet: a light lid, white borders, two prints that nearly touch; 300 ppi. */
export const LOOSE_PRINTS = {
  name: 'loose-prints',
  takenAt: '2026:04:20 17:05:00',
  shows: ['reservoir', 'engine-hall', 'stair', 'water-tower'],
} as const;

/** @param pictures what the prints show, in the order of {@link LOOSE_PRINTS} */
export function loosePrints([reservoir, engineHall, stair, waterTower]: readonly [Raster, Raster, Raster, Raster]): Heap {
  return {
    widthMm: 260,
    heightMm: 200,
    ppi: 300,
    lid: [243, 242, 238],
    grain: 0.6,
    noise: 1.1,
    falloff: 0.05,
    sideShadow: 0.1,
    printShadow: 0.28,
    dust: 60,
    seed: 20260420,
    prints: [
      { picture: reservoir, centreMm: [66, 52], widthMm: 102, heightMm: 76, angleDeg: -2.7, borderMm: 4, paper: [233, 230, 219] },
      // its left side lies 0.7 mm from the first one's right side
      { picture: engineHall, centreMm: [174.6, 58.2], widthMm: 112, heightMm: 80, angleDeg: -2.2, borderMm: 4, paper: [238, 235, 226] },
      { picture: stair, centreMm: [72, 146], widthMm: 89, heightMm: 64, angleDeg: 3.6, borderMm: 4, paper: [230, 228, 220], tornMm: 7 },
      { picture: waterTower, centreMm: [197, 152], widthMm: 60, heightMm: 84, angleDeg: 8.2, borderMm: 3, paper: [236, 233, 224] },
    ],
  };
}
