import { focalPxFrom35, type Raster } from '@able-plumb/core';
import { drawPlace, type PlaceCamera } from './draw-place';
import {
  block,
  masonry,
  noise,
  panes,
  patch,
  plaster,
  rough,
  shade,
  shadowed,
  type Light,
  type Look,
  type Shape,
  type Surface,
  type Wall,
} from './surfaces';

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

/** Numbers from a seed. Source: Marsaglia 2003, Xorshift RNGs, from memory. */
class Dice {
  private state: number;
  constructor(seed: number) {
    this.state = (seed * 2654435761 + 1) >>> 0 || 1;
    for (let i = 0; i < 20; i += 1) this.next();
  }
  next(): number {
    this.state ^= this.state << 13;
    this.state >>>= 0;
    this.state ^= this.state >>> 17;
    this.state ^= this.state << 5;
    this.state >>>= 0;
    return this.state / 2 ** 32;
  }
  between(low: number, high: number): number {
    return low + (high - low) * this.next();
  }
  whole(low: number, high: number): number {
    return Math.floor(this.between(low, high + 1));
  }
  chance(share: number): boolean {
    return this.next() < share;
  }
  /** Deviation 1. Source: Box, Muller 1958. */
  normal(): number {
    return Math.sqrt(-2 * Math.log(1 - this.next())) * Math.cos(2 * Math.PI * this.next());
  }
  tone(low: number, high: number): Light {
    const v = this.between(low, high);
    return [v * this.between(0.92, 1.12), v, v * this.between(0.8, 1.02)];
  }
}

type Sky = (elevationDeg: number, azimuthDeg: number) => Light;
interface Scenery {
  readonly surfaces: readonly Surface[];
  readonly sky: Sky;
}

const LEAF: Light = [0.07, 0.13, 0.04];
const RIGHT = [1, 0, 0] as const;
const BACK = [0, 0, 1] as const;

function skyOf(dice: Dice): Sky {
  const salt = dice.whole(1, 1e6);
  const clouds = dice.between(0, 0.5);
  return (up, turn) => {
    const high = Math.max(0, Math.min(1, up / 60));
    const cloud = clouds * Math.max(0, rough(turn / 14, up / 7, salt) - 0.45) * 2;
    return [0.62 - 0.32 * high + cloud, 0.7 - 0.24 * high + cloud, 0.82 - 0.1 * high + cloud * 0.9];
  };
}

/** Ground at eye height below the camera, with or without paving. */
function ground(dice: Dice, eye: number, look?: Look): Surface {
  const salt = dice.whole(1, 1e6);
  const base = dice.tone(0.1, 0.25);
  return {
    corner: [-150, eye, -20],
    along: [300, 0, 0],
    down: [0, 0, 320],
    look: look ?? ((u, v) => shade(base, 0.7 + 0.4 * rough(u * 0.5, v * 0.5, salt) + 0.2 * noise(u * 9, v * 9, salt))),
  };
}

/** The look of a wall, and whether it shows courses. */
function wallLook(dice: Dice): Look {
  const salt = dice.whole(1, 1e6);
  const base = dice.tone(0.2, 0.5);
  if (dice.chance(0.4)) return plaster(base, salt);
  const stone = dice.chance(0.4);
  return stone
    ? masonry(base, shade(base, 0.7), dice.between(0.5, 0.8), dice.between(0.28, 0.4), 0.014, salt)
    : masonry([base[0] * 1.1, base[1] * 0.75, base[2] * 0.6], [0.5, 0.48, 0.44], 0.24, 0.08, 0.012, salt);
}

/** A front of so many metres: windows in storeys, sills, heads, a base, string courses, a cornice, doors, a shadow across. */
function front(dice: Dice, wall: Wall, width: number, height: number): Surface[] {
  const plain = wallLook(dice);
  const look = dice.chance(0.5) ? shadowed(plain, dice.between(-0.9, 0.9), dice.between(-2, width)) : plain;
  const found: Surface[] = [patch(wall, 0, 0, width, height, 0, look)];
  const trim = plaster(dice.tone(0.4, 0.7), dice.whole(1, 1e6));
  const storeys = Math.max(1, Math.round(height / dice.between(3, 4)));
  const storey = height / storeys;
  const step = dice.between(2, 3.6);
  const columns = Math.max(1, Math.floor((width - 0.8) / step));
  const size = { width: dice.between(0.9, Math.min(1.5, step - 0.7)), height: dice.between(1.2, storey * 0.6) };
  const frame = dice.tone(0.3, 0.8);
  const [bars, rows] = [dice.whole(1, 3), dice.whole(1, 4)];
  const margin = (width - columns * step) / 2;
  const reveal = dice.between(-0.25, -0.08);
  for (let s = 0; s < storeys; s += 1) {
    const top = s * storey + (storey - size.height) * 0.45;
    for (let c = 0; c < columns; c += 1) {
      const left = margin + c * step + (step - size.width) / 2;
      const lowest = s === storeys - 1;
      if (lowest && dice.chance(0.25)) {
        const door = plaster(dice.tone(0.06, 0.3), dice.whole(1, 1e6));
        found.push(...block(wall, left, height - 2.2, 1, 2.2, 0.04, door));
        continue;
      }
      if (dice.chance(0.06)) continue;
      const glass = panes(size.width, size.height, bars, rows, frame, dice.tone(0.02, 0.1), dice.whole(1, 1e6));
      // a hole in the wall: what lies behind it is nearer than nothing, so the pane stands a hair out and its sides shade it
      found.push(patch(wall, left, top, size.width, size.height, 0.005, glass));
      found.push(patch(wall, left, top, size.width, -reveal * 0.6, 0.01, () => [0.02, 0.02, 0.02]));
      found.push(...block(wall, left - 0.1, top + size.height, size.width + 0.2, 0.12, 0.12, trim));
      if (dice.chance(0.7)) found.push(patch(wall, left - 0.06, top - 0.2, size.width + 0.12, 0.2, 0.012, trim));
    }
    if (s > 0 && dice.chance(0.5)) found.push(...block(wall, 0, s * storey, width, 0.15, 0.1, trim));
  }
  if (dice.chance(0.7)) found.push(...block(wall, -0.15, -0.3, width + 0.3, 0.35, 0.25, trim));
  if (dice.chance(0.5)) found.push(...block(wall, 0, height - 0.5, width, 0.5, 0.06, trim));
  if (dice.chance(0.6)) {
    // a gable or a roof: slanted edges
    const rise = dice.between(1.5, 3.5);
    const roof = plaster(dice.tone(0.1, 0.25), dice.whole(1, 1e6));
    found.push({ ...patch(wall, 0, -rise, width, rise, -0.1, roof), shape: (u, v) => Math.abs(u - width / 2) < (v / rise) * (width / 2) });
  }
  for (let k = dice.whole(0, 2); k > 0; k -= 1) {
    const pipe = plaster(dice.tone(0.08, 0.3), 3);
    found.push(patch(wall, dice.between(0.1, width - 0.2), 0, 0.09, height, 0.08, pipe));
  }
  return found;
}

/** A tree: a bent trunk under a crown of leaves, on a plane that faces the camera. */
function tree(dice: Dice, x: number, z: number, eye: number, tall: number): Surface[] {
  const salt = dice.whole(1, 1e6);
  const [lean, bend] = [0.07 * dice.normal(), 0.25 * dice.normal()];
  const thick = dice.between(0.12, 0.3);
  const bark = dice.tone(0.05, 0.16);
  const wide = tall * 0.9;
  const middleAt = (v: number): number => {
    const up = 1 - v / tall;
    return wide / 2 + lean * tall * up + bend * tall * up * up * 0.3;
  };
  const inTrunk: Shape = (u, v) => Math.abs(u - middleAt(v)) < thick * (0.5 + (0.6 * v) / tall) * (0.94 + 0.12 * noise(3, v * 3, salt));
  const inLeaves: Shape = (u, v) => {
    const [a, b] = [(u - wide / 2) / (wide / 2), (v - tall * 0.32) / (tall * 0.34)];
    const far = 0.45 + 0.45 * (a * a + b * b);
    return far < 1.35 && rough(u * 1.3, v * 1.3, salt) + 0.35 * noise(u * 9, v * 9, salt) > far;
  };
  const plane = { corner: [x - wide / 2, eye - tall, z] as const, along: [wide, 0, 0] as const, down: [0, tall, 0] as const };
  return [
    { ...plane, shape: inTrunk, look: (u, v) => shade(bark, 0.5 + noise((u - middleAt(v)) * 20, v * 4, salt)) },
    {
      ...plane,
      corner: [x - wide / 2, eye - tall, z - 0.05],
      shape: inLeaves,
      look: (u, v) => shade(LEAF, 0.5 + 1.4 * noise(u * 12, v * 12, salt + 2)),
    },
  ];
}

function person(dice: Dice, x: number, z: number, eye: number): Surface {
  const coat = dice.tone(0.05, 0.5);
  const salt = dice.next();
  return {
    corner: [x - 0.3, eye - 1.75, z],
    along: [0.6, 0, 0],
    down: [0, 1.75, 0],
    look: (_, v) => (v < 0.27 ? [0.4, 0.28, 0.2] : coat),
    shape: (u, v) => {
      const off = Math.abs(u - 0.3);
      if (v < 0.27) return (off / 0.1) ** 2 + ((v - 0.13) / 0.13) ** 2 < 1;
      // nothing of a coat or a leg is straight
      const wave = 0.012 * Math.sin(17 * v + 3 * salt) + 0.008 * Math.sin(41 * v);
      if (v < 0.95) return off < 0.19 - 0.6 * (v - 0.55) ** 2 + wave;
      return off > 0.015 + 0.06 * (v - 0.95) ** 1.5 + wave / 2 && off < 0.19 - 0.12 * (v - 0.95) + wave;
    },
  };
}

/** A post that does not stand plumb: a lamp, a sign. */
function leaningPost(dice: Dice, x: number, z: number, eye: number): Surface {
  const tall = dice.between(3, 7);
  const lean = (dice.chance(0.5) ? 1 : -1) * dice.between(0.02, 0.07);
  const iron = dice.tone(0.03, 0.3);
  return { corner: [x + lean * tall, eye - tall, z], along: [0.12, 0, 0], down: [-lean * tall, tall, 0], look: () => iron };
}

/** What stands in the way of a front that is `z` metres away. */
function inTheWay(dice: Dice, eye: number, z: number): Surface[] {
  const found: Surface[] = [];
  for (let k = dice.whole(0, 3); k > 0; k -= 1)
    found.push(...tree(dice, dice.between(-0.8, 0.8) * z, dice.between(0.45, 0.9) * z, eye, dice.between(4, 9)));
  for (let k = dice.whole(0, 4); k > 0; k -= 1) found.push(person(dice, dice.between(-0.6, 0.6) * z, dice.between(0.4, 0.95) * z, eye));
  for (let k = dice.whole(0, 2); k > 0; k -= 1) found.push(leaningPost(dice, dice.between(-0.7, 0.7) * z, dice.between(0.5, 0.9) * z, eye));
  return found;
}

/** A pavement that falls along the front: kerbs that are straight and not level. */
function slopingKerb(dice: Dice, eye: number, z: number): Surface {
  const fall = dice.between(-0.06, 0.06);
  const [kerb, road] = [dice.tone(0.35, 0.6), dice.tone(0.08, 0.16)];
  return {
    corner: [-60, eye - 60 * fall - 0.02, z - 3],
    along: [120, 120 * fall, 0],
    down: [0, 0, 3],
    look: (_, v) => (v < 0.18 ? kerb : v > 1.5 && v < 1.56 ? [0.03, 0.03, 0.03] : shade(road, 1.4)),
  };
}

/** How far away something is that a lens is chosen for, in terms of what 26 mm would want. */
const reach = (focal35: number): number => Math.max(1, focal35 / 26);

const MAKE: Readonly<Record<PlaceKind, (dice: Dice, eye: number, focal35: number, swingDeg: number) => Scenery>> = {
  front(dice, eye, focal35) {
    const z = dice.between(9, 18) * reach(focal35);
    const surfaces: Surface[] = [ground(dice, eye), slopingKerb(dice, eye, z), ...inTheWay(dice, eye, z)];
    for (let x = -z * 1.6 - dice.between(0, 5); x < z * 1.6;) {
      const [width, height] = [dice.between(7, 18), dice.between(5, 14)];
      surfaces.push(...front(dice, { corner: [x, eye - height, z + dice.between(0, 0.4)], along: RIGHT, out: [0, 0, -1] }, width, height));
      x += width + (dice.chance(0.2) ? dice.between(1, 3) : 0);
    }
    return { surfaces, sky: skyOf(dice) };
  },
  street(dice, eye, focal35) {
    const half = dice.between(3.5, 8);
    const surfaces: Surface[] = [ground(dice, eye), ...inTheWay(dice, eye, 16 * reach(focal35))];
    for (const side of [-1, 1] as const) {
      for (let z = -4; z < 70;) {
        const [width, height] = [dice.between(6, 14), dice.between(5, 13)];
        // as seen the way along runs to the right: away on the left side, nearer on the right
        const wall: Wall =
          side < 0
            ? { corner: [-half - dice.between(0, 0.3), eye - height, z], along: BACK, out: RIGHT }
            : { corner: [half + dice.between(0, 0.3), eye - height, z + width], along: [0, 0, -1], out: [-1, 0, 0] };
        surfaces.push(...front(dice, wall, width, height));
        z += width;
      }
      const kerb = dice.tone(0.35, 0.6);
      const fall = dice.between(-0.03, 0.03);
      surfaces.push({ corner: [side * (half - 1.5), eye - 0.1, -5], along: [0.15, 0, 0], down: [0, 75 * fall, 75], look: () => kerb });
    }
    if (dice.chance(0.5)) surfaces.push(...front(dice, { corner: [-half * 1.5, eye - 9, 70], along: RIGHT, out: [0, 0, -1] }, half * 3, 9));
    return { surfaces, sky: skyOf(dice) };
  },
  corner(dice, eye, focal35, swingDeg) {
    const z = dice.between(8, 14) * reach(focal35);
    const x = z * Math.tan(((swingDeg + (dice.between(-0.25, 0.25) * 900) / focal35) * Math.PI) / 180);
    const height = dice.between(6, 14);
    const salt = dice.between(10, 24);
    const left = dice.chance(0.5);
    const surfaces = [ground(dice, eye), ...inTheWay(dice, eye, z)];
    // one face across, the other back from the same corner
    const across: Wall = { corner: [left ? x - salt : x, eye - height, z], along: RIGHT, out: [0, 0, -1] };
    const back: Wall = left
      ? { corner: [x, eye - height, z], along: BACK, out: RIGHT }
      : { corner: [x, eye - height, z + 20], along: [0, 0, -1], out: [-1, 0, 0] };
    surfaces.push(...front(dice, across, salt, height), ...front(dice, back, 20, height));
    return { surfaces, sky: skyOf(dice) };
  },
  room(dice, eye) {
    const [left, right, far, tall] = [-dice.between(2, 4), dice.between(2, 4), dice.between(4.5, 9), dice.between(2.6, 4)];
    return { surfaces: roomOf(dice, eye, left, right, far, tall), sky: () => [0.5, 0.5, 0.5] };
  },
  stair(dice, eye) {
    const [left, right, far, tall] = [-dice.between(1.6, 2.5), dice.between(1.6, 2.5), dice.between(6, 8), dice.between(4.5, 6)];
    const surfaces = roomOf(dice, eye, left, right, far, tall);
    const tread = plaster(dice.tone(0.25, 0.5), 7);
    const steps = dice.whole(8, 12);
    for (let k = 0; k < steps; k += 1) {
      const wall: Wall = { corner: [left, eye - 0.17 * (k + 1), 2 + 0.28 * k], along: RIGHT, out: [0, 0, -1] };
      surfaces.push(...block(wall, 0, 0, right - left - 1, 0.17, 0, tread, -0.28));
    }
    // strings and rails that rise with it
    const rail = dice.tone(0.03, 0.2);
    for (const x of [left + 0.04, right - 1.02])
      surfaces.push({ corner: [x, eye - 1, 2], along: [0, -0.17 * steps, 0.28 * steps], down: [0, 0.07, 0], look: () => rail });
    return { surfaces, sky: () => [0.5, 0.5, 0.5] };
  },
  water(dice, eye) {
    const salt = dice.whole(1, 1e6);
    const height = Math.max(eye, dice.between(2, 8));
    const water = dice.tone(0.08, 0.2);
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
    for (let k = dice.whole(0, 2); k > 0; k -= 1) surfaces.push(leaningPost(dice, dice.between(-6, 6), dice.between(8, 20), height));
    return { surfaces, sky: skyOf(dice) };
  },
  wood(dice, eye) {
    const surfaces: Surface[] = [
      ground(
        dice,
        eye,
        shadowed((u, v) => shade([0.1, 0.1, 0.05], 0.4 + rough(u, v, 11)), 0.3, 100),
      ),
    ];
    for (let k = 0; k < 70; k += 1) {
      const z = dice.between(3, 40);
      surfaces.push(...tree(dice, dice.between(-0.9, 0.9) * z, z, eye + 0.3 * dice.normal(), dice.between(8, 18)));
    }
    return { surfaces, sky: (up, turn) => shade(LEAF, 0.8 + 4 * rough(turn / 4, up / 4, 5)) };
  },
  hills(dice, eye) {
    const surfaces: Surface[] = [ground(dice, eye, (u, v) => shade([0.12, 0.17, 0.06], 0.6 + 0.5 * rough(u * 0.3, v * 0.3, 17)))];
    for (const far of [2500, 1200, 500, 220]) {
      const salt = dice.whole(1, 1e6);
      const rise = dice.between(0.04, 0.16) * far;
      const green: Light = [0.1 + far / 8000, 0.16 + far / 8000, 0.06 + far / 5000];
      surfaces.push({
        corner: [-2 * far, eye - rise, far],
        along: [4 * far, 0, 0],
        down: [0, rise + far * 0.03, 0],
        look: (u, v) => shade(green, 0.7 + 0.5 * rough((u / far) * 9, (v / far) * 20, salt)),
        shape: (u, v) => v > rise * (0.9 * noise(u / far / 0.9, 0.5, salt) + 0.1 * noise((u / far) * 6, 0.5, salt)),
      });
    }
    return { surfaces, sky: skyOf(dice) };
  },
  scrub(dice, eye) {
    const surfaces: Surface[] = [ground(dice, eye)];
    for (let k = 0; k < 24; k += 1) {
      const z = dice.between(2, 14);
      surfaces.push(...tree(dice, dice.between(-0.9, 0.9) * z, z, eye + 1.5, dice.between(2, 4)));
    }
    for (let k = 0; k < 5; k += 1) surfaces.push(person(dice, dice.between(-3, 3), dice.between(4, 10), eye));
    return { surfaces, sky: skyOf(dice) };
  },
};

/** The inside of a room: walls with a dado, boards, a door, windows, pictures that hang crookedly, cupboards. */
function roomOf(dice: Dice, eye: number, left: number, right: number, far: number, tall: number): Surface[] {
  const top = eye - tall;
  const walls: readonly (readonly [Wall, number])[] = [
    [{ corner: [left, top, far], along: RIGHT, out: [0, 0, -1] }, right - left],
    [{ corner: [left, top, -1], along: BACK, out: RIGHT }, far + 1],
    [{ corner: [right, top, far], along: [0, 0, -1], out: [-1, 0, 0] }, far + 1],
  ];
  const paper = plaster(dice.tone(0.3, 0.6), dice.whole(1, 1e6));
  const trim = plaster(dice.tone(0.4, 0.8), 3);
  const board = dice.between(0.12, 0.3);
  const wood = dice.tone(0.15, 0.3);
  const floor: Look = (u, v) => {
    const b = Math.floor(u / board);
    return u - b * board < 0.008
      ? [0.02, 0.02, 0.02]
      : shade([wood[0] * 1.2, wood[1], wood[2] * 0.7], 0.7 + 0.4 * noise(b * 7.7, v * 0.5, 9) + 0.1 * noise(u * 40, v * 3, 4));
  };
  const found: Surface[] = [
    { corner: [left, eye, -1], along: [right - left, 0, 0], down: [0, 0, far + 1], look: dice.chance(0.6) ? floor : plaster(wood, 5) },
    { corner: [left, top, -1], along: [right - left, 0, 0], down: [0, 0, far + 1], look: plaster([0.6, 0.6, 0.58], 6) },
  ];
  for (const [wall, width] of walls) {
    const tint = dice.between(0.75, 1.05);
    found.push(patch(wall, 0, 0, width, tall, 0, (u, v) => shade(paper(u, v), tint)));
    found.push(...block(wall, 0, tall - 0.15, width, 0.15, 0.02, trim));
    if (dice.chance(0.5)) found.push(...block(wall, 0, tall - 1, width, 0.08, 0.03, trim));
    if (dice.chance(0.5)) found.push(...block(wall, 0, 0, width, 0.12, 0.1, trim));
    for (let u = dice.between(0.3, 1.2); u + 1.3 < width; u += dice.between(1.6, 2.6)) {
      const roll = dice.next();
      if (roll < 0.3) {
        found.push(...block(wall, u - 0.1, tall - 2.2, 1.1, 2.2, 0.05, trim));
        found.push(patch(wall, u, tall - 2.1, 0.9, 2.1, 0.06, panes(0.9, 2.1, 2, 3, dice.tone(0.2, 0.5), dice.tone(0.15, 0.4), 4)));
      } else if (roll < 0.55) {
        found.push(patch(wall, u, tall - 2.3, 1.1, 1.4, 0.01, panes(1.1, 1.4, 2, 3, dice.tone(0.5, 0.8), [0.8, 0.9, 1], 4)));
        found.push(...block(wall, u - 0.1, tall - 0.9, 1.3, 0.05, 0.15, trim));
      } else if (roll < 0.75) {
        // a picture that somebody hung
        const lean = 0.02 * dice.normal();
        const { corner, along, out } = wall;
        const [w, h] = [dice.between(0.4, 0.8), dice.between(0.4, 0.8)];
        const show = panes(w, h, 1, 1, dice.tone(0.05, 0.6), dice.tone(0.1, 0.5), dice.whole(1, 99));
        found.push({
          corner: [corner[0] + along[0] * u + out[0] * 0.03, corner[1] + tall - 1.9, corner[2] + along[2] * u + out[2] * 0.03],
          along: [along[0] * w, lean * w, along[2] * w],
          down: [-along[0] * lean * h, h, -along[2] * lean * h],
          look: show,
        });
      } else if (roll < 0.9) {
        found.push(...block(wall, u, tall - dice.between(0.8, 2), 1, 2, dice.between(0.3, 0.6), plaster(dice.tone(0.1, 0.4), 8)));
      }
    }
  }
  for (let k = dice.whole(0, 2); k > 0; k -= 1)
    found.push(person(dice, dice.between(left + 0.5, right - 0.5), dice.between(2.5, far - 0.5), eye));
  return found;
}

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
export function placeOf(seed: number, longPx = 1200): Place {
  const kind = kindOfPlace(seed);
  const dice = new Dice(seed + 1000);
  const inside = kind === 'room' || kind === 'stair';
  const focal35 = Math.round(inside ? dice.between(18, 35) : Math.exp(dice.between(Math.log(18), Math.log(70))));
  const upright = dice.chance(0.25);
  const [long, short] = [longPx, Math.round((longPx * 2) / 3)];
  const [width, height] = upright ? [short, long] : [long, short];
  const within = (v: number, most: number): number => Math.max(-most, Math.min(most, v));
  const roll = within(2.5 * dice.normal(), 6);
  // a long lens is not aimed at the ground
  const aimed = Math.min(1, 30 / focal35);
  const tilt =
    kind === 'water' ? dice.between(-4, 4) : (dice.chance(0.3) ? dice.between(-15, 25) : within(7 * dice.normal() + 4, 15)) * aimed;
  const swing = kind === 'corner' ? dice.between(-35, 35) : within(14 * dice.normal(), 35);
  const camera: PlaceCamera = { attitude: { roll, tilt, swing }, focalPx: focalPxFrom35(focal35, { width, height }), width, height };
  const { surfaces, sky } = MAKE[kind](dice, dice.between(1.5, 1.8), focal35, swing);
  return { seed, kind, built: BUILT.includes(kind), focal35, camera, raster: drawPlace(surfaces, sky, camera) };
}
