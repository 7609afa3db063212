import { focalPxFrom35, type Raster } from '@able-plumb/core';
import { drawPlace, type PlaceCamera } from './draw-place';
import { BACK, front, ground, inTheWay, LEAF, leaningPost, person, RIGHT, roomOf, skyOf, slopingKerb, tree, type Sky } from './furnish';
import { Luck } from './luck';
import { block, noise, plaster, rough, shade, shadowed, type Light, type Surface, type Wall } from './surfaces';

/** Kinds of place; the last three do not say how the camera stood. */
export const PLACE_KINDS = ['front', 'street', 'corner', 'room', 'stair', 'water', 'wood', 'hills', 'scrub'] as const;
export type PlaceKind = (typeof PLACE_KINDS)[number];

/** A picture of a made-up place with everything known of its camera. */
export interface Place {
  readonly seed: number;
  readonly kind: PlaceKind;
  /** Whether things stand there that are built: they tell what is plumb. */
  readonly built: boolean;
  readonly focal35: number;
  readonly camera: PlaceCamera;
  readonly raster: Raster;
}

interface Scenery {
  readonly surfaces: readonly Surface[];
  readonly sky: Sky;
}

/** How far away something is that a lens is chosen for, in terms of what 26 mm would want. */
const reach = (focal35: number): number => Math.max(1, focal35 / 26);

const MAKE: Readonly<Record<PlaceKind, (luck: Luck, eye: number, focal35: number, swingDeg: number) => Scenery>> = {
  front(luck, eye, focal35) {
    const z = luck.between(9, 18) * reach(focal35);
    const surfaces: Surface[] = [ground(luck, eye), slopingKerb(luck, eye, z), ...inTheWay(luck, eye, z)];
    for (let x = -z * 1.6 - luck.between(0, 5); x < z * 1.6;) {
      const [width, height] = [luck.between(7, 18), luck.between(5, 14)];
      surfaces.push(...front(luck, { corner: [x, eye - height, z + luck.between(0, 0.4)], along: RIGHT, out: [0, 0, -1] }, width, height));
      x += width + (luck.chance(0.2) ? luck.between(1, 3) : 0);
    }
    return { surfaces, sky: skyOf(luck) };
  },
  street(luck, eye, focal35) {
    const half = luck.between(3.5, 8);
    const surfaces: Surface[] = [ground(luck, eye), ...inTheWay(luck, eye, 16 * reach(focal35))];
    for (const side of [-1, 1] as const) {
      for (let z = -4; z < 70;) {
        const [width, height] = [luck.between(6, 14), luck.between(5, 13)];
        // as seen the way along runs to the right: away on the left side, nearer on the right
        const wall: Wall =
          side < 0
            ? { corner: [-half - luck.between(0, 0.3), eye - height, z], along: BACK, out: RIGHT }
            : { corner: [half + luck.between(0, 0.3), eye - height, z + width], along: [0, 0, -1], out: [-1, 0, 0] };
        surfaces.push(...front(luck, wall, width, height));
        z += width;
      }
      const kerb = luck.tone(0.35, 0.6);
      const fall = luck.between(-0.03, 0.03);
      surfaces.push({ corner: [side * (half - 1.5), eye - 0.1, -5], along: [0.15, 0, 0], down: [0, 75 * fall, 75], look: () => kerb });
    }
    if (luck.chance(0.5)) surfaces.push(...front(luck, { corner: [-half * 1.5, eye - 9, 70], along: RIGHT, out: [0, 0, -1] }, half * 3, 9));
    return { surfaces, sky: skyOf(luck) };
  },
  corner(luck, eye, focal35, swingDeg) {
    const z = luck.between(8, 14) * reach(focal35);
    const x = z * Math.tan(((swingDeg + (luck.between(-0.25, 0.25) * 900) / focal35) * Math.PI) / 180);
    const height = luck.between(6, 14);
    const salt = luck.between(10, 24);
    const left = luck.chance(0.5);
    const surfaces = [ground(luck, eye), ...inTheWay(luck, eye, z)];
    // one face across, the other back from the same corner
    const across: Wall = { corner: [left ? x - salt : x, eye - height, z], along: RIGHT, out: [0, 0, -1] };
    const back: Wall = left
      ? { corner: [x, eye - height, z], along: BACK, out: RIGHT }
      : { corner: [x, eye - height, z + 20], along: [0, 0, -1], out: [-1, 0, 0] };
    surfaces.push(...front(luck, across, salt, height), ...front(luck, back, 20, height));
    return { surfaces, sky: skyOf(luck) };
  },
  room(luck, eye) {
    const [left, right, far, tall] = [-luck.between(2, 4), luck.between(2, 4), luck.between(4.5, 9), luck.between(2.6, 4)];
    return { surfaces: roomOf(luck, eye, left, right, far, tall), sky: () => [0.5, 0.5, 0.5] };
  },
  stair(luck, eye) {
    const [left, right, far, tall] = [-luck.between(1.6, 2.5), luck.between(1.6, 2.5), luck.between(6, 8), luck.between(4.5, 6)];
    const surfaces = roomOf(luck, eye, left, right, far, tall);
    const tread = plaster(luck.tone(0.25, 0.5), 7);
    const steps = luck.whole(8, 12);
    for (let k = 0; k < steps; k += 1) {
      const wall: Wall = { corner: [left, eye - 0.17 * (k + 1), 2 + 0.28 * k], along: RIGHT, out: [0, 0, -1] };
      surfaces.push(...block(wall, 0, 0, right - left - 1, 0.17, 0, tread, -0.28));
    }
    // strings and rails that rise with it
    const rail = luck.tone(0.03, 0.2);
    for (const x of [left + 0.04, right - 1.02])
      surfaces.push({ corner: [x, eye - 1, 2], along: [0, -0.17 * steps, 0.28 * steps], down: [0, 0.07, 0], look: () => rail });
    return { surfaces, sky: () => [0.5, 0.5, 0.5] };
  },
  water(luck, eye) {
    const salt = luck.whole(1, 1e6);
    const height = Math.max(eye, luck.between(2, 8));
    const water = luck.tone(0.08, 0.2);
    const surfaces: Surface[] = [
      {
        corner: [-6e5, height, -20],
        along: [12e5, 0, 0],
        down: [0, 0, 6e5],
        look: (u, v) =>
          shade(
            [water[0] * 0.7, water[1], water[2] * 1.4],
            0.75 + 0.4 * noise((u - 6e5) * 0.15, v * 0.5, salt) + 0.15 * noise((u - 6e5) * 2, v * 5, salt),
          ),
      },
    ];
    for (let k = luck.whole(0, 2); k > 0; k -= 1) surfaces.push(leaningPost(luck, luck.between(-6, 6), luck.between(8, 20), height));
    return { surfaces, sky: skyOf(luck) };
  },
  wood(luck, eye) {
    const surfaces: Surface[] = [
      ground(
        luck,
        eye,
        shadowed((u, v) => shade([0.1, 0.1, 0.05], 0.4 + rough(u, v, 11)), 0.3, 100),
      ),
    ];
    for (let k = 0; k < 70; k += 1) {
      const z = luck.between(3, 40);
      surfaces.push(...tree(luck, luck.between(-0.9, 0.9) * z, z, eye + 0.3 * luck.normal(), luck.between(8, 18)));
    }
    return { surfaces, sky: (up, turn) => shade(LEAF, 0.8 + 4 * rough(turn / 4, up / 4, 5)) };
  },
  hills(luck, eye) {
    const surfaces: Surface[] = [ground(luck, eye, (u, v) => shade([0.12, 0.17, 0.06], 0.6 + 0.5 * rough(u * 0.3, v * 0.3, 17)))];
    for (const far of [2500, 1200, 500, 220]) {
      const salt = luck.whole(1, 1e6);
      const rise = luck.between(0.04, 0.16) * far;
      const green: Light = [0.1 + far / 8000, 0.16 + far / 8000, 0.06 + far / 5000];
      surfaces.push({
        corner: [-2 * far, eye - rise, far],
        along: [4 * far, 0, 0],
        down: [0, rise + far * 0.03, 0],
        look: (u, v) => shade(green, 0.7 + 0.5 * rough((u / far) * 9, (v / far) * 20, salt)),
        shape: (u, v) => v > rise * (0.9 * noise(u / far / 0.9, 0.5, salt) + 0.1 * noise((u / far) * 6, 0.5, salt)),
      });
    }
    return { surfaces, sky: skyOf(luck) };
  },
  scrub(luck, eye) {
    const surfaces: Surface[] = [ground(luck, eye)];
    for (let k = 0; k < 24; k += 1) {
      const z = luck.between(2, 14);
      surfaces.push(...tree(luck, luck.between(-0.9, 0.9) * z, z, eye + 1.5, luck.between(2, 4)));
    }
    for (let k = 0; k < 5; k += 1) surfaces.push(person(luck, luck.between(-3, 3), luck.between(4, 10), eye));
    return { surfaces, sky: skyOf(luck) };
  },
};

const BUILT: readonly PlaceKind[] = ['front', 'street', 'corner', 'room', 'stair'];
/** Of 24 places in a row so many of each kind. */
const SHARES: readonly PlaceKind[] = [
  'front',
  'street',
  'corner',
  'room',
  'front',
  'street',
  'corner',
  'room',
  'front',
  'street',
  'corner',
  'room',
  'front',
  'street',
  'corner',
  'room',
  'stair',
  'stair',
  'water',
  'water',
  'wood',
  'hills',
  'scrub',
  'front',
];

/** The kind of place that a seed makes. */
export const kindOfPlace = (seed: number): PlaceKind => SHARES[seed % SHARES.length] as PlaceKind;

/**
 * A place by its seed: lens of 18 to 70 mm, roll to 6, tilt -15 to 25, swing to 35 degrees; 1200 x 800 px, every fourth upright.
 */
export function placeOf(seed: number): Place {
  const kind = kindOfPlace(seed);
  const luck = new Luck(seed + 1000);
  const inside = kind === 'room' || kind === 'stair';
  const focal35 = Math.round(inside ? luck.between(18, 35) : Math.exp(luck.between(Math.log(18), Math.log(70))));
  const upright = luck.chance(0.25);
  const [width, height] = upright ? [800, 1200] : [1200, 800];
  const within = (v: number, most: number): number => Math.max(-most, Math.min(most, v));
  const roll = within(2.5 * luck.normal(), 6);
  // a long lens is not aimed at the ground
  const aimed = Math.min(1, 30 / focal35);
  const tilt =
    kind === 'water' ? luck.between(-4, 4) : (luck.chance(0.3) ? luck.between(-15, 25) : within(7 * luck.normal() + 4, 15)) * aimed;
  const swing = kind === 'corner' ? luck.between(-35, 35) : within(14 * luck.normal(), 35);
  const camera: PlaceCamera = { attitude: { roll, tilt, swing }, focalPx: focalPxFrom35(focal35, { width, height }), width, height };
  const { surfaces, sky } = MAKE[kind](luck, luck.between(1.5, 1.8), focal35, swing);
  return { seed, kind, built: BUILT.includes(kind), focal35, camera, raster: drawPlace(surfaces, sky, camera) };
}
