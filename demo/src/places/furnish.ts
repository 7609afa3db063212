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
import type { Luck } from './luck';

/** What is seen where nothing stands, by elevation and azimuth, degrees. */
export type Sky = (elevationDeg: number, azimuthDeg: number) => Light;

export const LEAF: Light = [0.07, 0.13, 0.04];
export const RIGHT = [1, 0, 0] as const;
export const BACK = [0, 0, 1] as const;

export function skyOf(luck: Luck): Sky {
  const salt = luck.whole(1, 1e6);
  const clouds = luck.between(0, 0.5);
  return (up, turn) => {
    const high = Math.max(0, Math.min(1, up / 60));
    const cloud = clouds * Math.max(0, rough(turn / 14, up / 7, salt) - 0.45) * 2;
    return [0.62 - 0.32 * high + cloud, 0.7 - 0.24 * high + cloud, 0.82 - 0.1 * high + cloud * 0.9];
  };
}

/** Ground at eye height below the camera, with or without paving. */
export function ground(luck: Luck, eye: number, look?: Look): Surface {
  const salt = luck.whole(1, 1e6);
  const base = luck.tone(0.1, 0.25);
  return {
    corner: [-150, eye, -20],
    along: [300, 0, 0],
    down: [0, 0, 320],
    look: look ?? ((u, v) => shade(base, 0.7 + 0.4 * rough(u * 0.5, v * 0.5, salt) + 0.2 * noise(u * 9, v * 9, salt))),
  };
}

/** The look of a wall, and whether it shows courses. */
export function wallLook(luck: Luck): Look {
  const salt = luck.whole(1, 1e6);
  const base = luck.tone(0.2, 0.5);
  if (luck.chance(0.4)) return plaster(base, salt);
  const stone = luck.chance(0.4);
  return stone
    ? masonry(base, shade(base, 0.7), luck.between(0.5, 0.8), luck.between(0.28, 0.4), 0.014, salt)
    : masonry([base[0] * 1.1, base[1] * 0.75, base[2] * 0.6], [0.5, 0.48, 0.44], 0.24, 0.08, 0.012, salt);
}

/** A front of so many metres: windows in storeys, sills, heads, a base, string courses, a cornice, doors, a shadow across. */
export function front(luck: Luck, wall: Wall, width: number, height: number): Surface[] {
  const plain = wallLook(luck);
  const look = luck.chance(0.5) ? shadowed(plain, luck.between(-0.9, 0.9), luck.between(-2, width)) : plain;
  const found: Surface[] = [patch(wall, 0, 0, width, height, 0, look)];
  const trim = plaster(luck.tone(0.4, 0.7), luck.whole(1, 1e6));
  const storeys = Math.max(1, Math.round(height / luck.between(3, 4)));
  const storey = height / storeys;
  const step = luck.between(2, 3.6);
  const columns = Math.max(1, Math.floor((width - 0.8) / step));
  const size = { width: luck.between(0.9, Math.min(1.5, step - 0.7)), height: luck.between(1.2, storey * 0.6) };
  const frame = luck.tone(0.3, 0.8);
  const [bars, rows] = [luck.whole(1, 3), luck.whole(1, 4)];
  const margin = (width - columns * step) / 2;
  const reveal = luck.between(-0.25, -0.08);
  for (let s = 0; s < storeys; s += 1) {
    const top = s * storey + (storey - size.height) * 0.45;
    for (let c = 0; c < columns; c += 1) {
      const left = margin + c * step + (step - size.width) / 2;
      const lowest = s === storeys - 1;
      if (lowest && luck.chance(0.25)) {
        const door = plaster(luck.tone(0.06, 0.3), luck.whole(1, 1e6));
        found.push(...block(wall, left, height - 2.2, 1, 2.2, 0.04, door));
        continue;
      }
      if (luck.chance(0.06)) continue;
      const glass = panes(size.width, size.height, bars, rows, frame, luck.tone(0.02, 0.1), luck.whole(1, 1e6));
      // a hole in the wall: what lies behind it is nearer than nothing, so the pane stands a hair out and its sides shade it
      found.push(patch(wall, left, top, size.width, size.height, 0.005, glass));
      found.push(patch(wall, left, top, size.width, -reveal * 0.6, 0.01, () => [0.02, 0.02, 0.02]));
      found.push(...block(wall, left - 0.1, top + size.height, size.width + 0.2, 0.12, 0.12, trim));
      if (luck.chance(0.7)) found.push(patch(wall, left - 0.06, top - 0.2, size.width + 0.12, 0.2, 0.012, trim));
    }
    if (s > 0 && luck.chance(0.5)) found.push(...block(wall, 0, s * storey, width, 0.15, 0.1, trim));
  }
  if (luck.chance(0.7)) found.push(...block(wall, -0.15, -0.3, width + 0.3, 0.35, 0.25, trim));
  if (luck.chance(0.5)) found.push(...block(wall, 0, height - 0.5, width, 0.5, 0.06, trim));
  if (luck.chance(0.6)) {
    // a gable or a roof: slanted edges
    const rise = luck.between(1.5, 3.5);
    const roof = plaster(luck.tone(0.1, 0.25), luck.whole(1, 1e6));
    found.push({ ...patch(wall, 0, -rise, width, rise, -0.1, roof), shape: (u, v) => Math.abs(u - width / 2) < (v / rise) * (width / 2) });
  }
  for (let k = luck.whole(0, 2); k > 0; k -= 1) {
    const pipe = plaster(luck.tone(0.08, 0.3), 3);
    found.push(patch(wall, luck.between(0.1, width - 0.2), 0, 0.09, height, 0.08, pipe));
  }
  return found;
}

/** A tree: a bent trunk under a crown of leaves, on a plane that faces the camera. */
export function tree(luck: Luck, x: number, z: number, eye: number, tall: number): Surface[] {
  const salt = luck.whole(1, 1e6);
  const [lean, bend] = [0.07 * luck.normal(), 0.25 * luck.normal()];
  const thick = luck.between(0.12, 0.3);
  const bark = luck.tone(0.05, 0.16);
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

export function person(luck: Luck, x: number, z: number, eye: number): Surface {
  const coat = luck.tone(0.05, 0.5);
  const salt = luck.next();
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
export function leaningPost(luck: Luck, x: number, z: number, eye: number): Surface {
  const tall = luck.between(3, 7);
  const lean = (luck.chance(0.5) ? 1 : -1) * luck.between(0.02, 0.07);
  const iron = luck.tone(0.03, 0.3);
  return { corner: [x + lean * tall, eye - tall, z], along: [0.12, 0, 0], down: [-lean * tall, tall, 0], look: () => iron };
}

/** What stands in the way of a front that is `z` metres away. */
export function inTheWay(luck: Luck, eye: number, z: number): Surface[] {
  const found: Surface[] = [];
  for (let k = luck.whole(0, 3); k > 0; k -= 1)
    found.push(...tree(luck, luck.between(-0.8, 0.8) * z, luck.between(0.45, 0.9) * z, eye, luck.between(4, 9)));
  for (let k = luck.whole(0, 4); k > 0; k -= 1) found.push(person(luck, luck.between(-0.6, 0.6) * z, luck.between(0.4, 0.95) * z, eye));
  for (let k = luck.whole(0, 2); k > 0; k -= 1) found.push(leaningPost(luck, luck.between(-0.7, 0.7) * z, luck.between(0.5, 0.9) * z, eye));
  return found;
}

/** A pavement that falls along the front: kerbs that are straight and not level. */
export function slopingKerb(luck: Luck, eye: number, z: number): Surface {
  const fall = luck.between(-0.06, 0.06);
  const [kerb, road] = [luck.tone(0.35, 0.6), luck.tone(0.08, 0.16)];
  return {
    corner: [-60, eye - 60 * fall - 0.02, z - 3],
    along: [120, 120 * fall, 0],
    down: [0, 0, 3],
    look: (_, v) => (v < 0.18 ? kerb : v > 1.5 && v < 1.56 ? [0.03, 0.03, 0.03] : shade(road, 1.4)),
  };
}

/** The inside of a room: walls with a dado, boards, a door, windows, pictures that hang crookedly, cupboards. */
export function roomOf(luck: Luck, eye: number, left: number, right: number, far: number, tall: number): Surface[] {
  const top = eye - tall;
  const walls: readonly (readonly [Wall, number])[] = [
    [{ corner: [left, top, far], along: RIGHT, out: [0, 0, -1] }, right - left],
    [{ corner: [left, top, -1], along: BACK, out: RIGHT }, far + 1],
    [{ corner: [right, top, far], along: [0, 0, -1], out: [-1, 0, 0] }, far + 1],
  ];
  const paper = plaster(luck.tone(0.3, 0.6), luck.whole(1, 1e6));
  const trim = plaster(luck.tone(0.4, 0.8), 3);
  const board = luck.between(0.12, 0.3);
  const wood = luck.tone(0.15, 0.3);
  const floor: Look = (u, v) => {
    const b = Math.floor(u / board);
    return u - b * board < 0.008
      ? [0.02, 0.02, 0.02]
      : shade([wood[0] * 1.2, wood[1], wood[2] * 0.7], 0.7 + 0.4 * noise(b * 7.7, v * 0.5, 9) + 0.1 * noise(u * 40, v * 3, 4));
  };
  const found: Surface[] = [
    { corner: [left, eye, -1], along: [right - left, 0, 0], down: [0, 0, far + 1], look: luck.chance(0.6) ? floor : plaster(wood, 5) },
    { corner: [left, top, -1], along: [right - left, 0, 0], down: [0, 0, far + 1], look: plaster([0.6, 0.6, 0.58], 6) },
  ];
  for (const [wall, width] of walls) {
    const tint = luck.between(0.75, 1.05);
    found.push(patch(wall, 0, 0, width, tall, 0, (u, v) => shade(paper(u, v), tint)));
    found.push(...block(wall, 0, tall - 0.15, width, 0.15, 0.02, trim));
    if (luck.chance(0.5)) found.push(...block(wall, 0, tall - 1, width, 0.08, 0.03, trim));
    if (luck.chance(0.5)) found.push(...block(wall, 0, 0, width, 0.12, 0.1, trim));
    for (let u = luck.between(0.3, 1.2); u + 1.3 < width; u += luck.between(1.6, 2.6)) {
      const roll = luck.next();
      if (roll < 0.3) {
        found.push(...block(wall, u - 0.1, tall - 2.2, 1.1, 2.2, 0.05, trim));
        found.push(patch(wall, u, tall - 2.1, 0.9, 2.1, 0.06, panes(0.9, 2.1, 2, 3, luck.tone(0.2, 0.5), luck.tone(0.15, 0.4), 4)));
      } else if (roll < 0.55) {
        found.push(patch(wall, u, tall - 2.3, 1.1, 1.4, 0.01, panes(1.1, 1.4, 2, 3, luck.tone(0.5, 0.8), [0.8, 0.9, 1], 4)));
        found.push(...block(wall, u - 0.1, tall - 0.9, 1.3, 0.05, 0.15, trim));
      } else if (roll < 0.75) {
        // a picture that somebody hung
        const lean = 0.02 * luck.normal();
        const { corner, along, out } = wall;
        const [w, h] = [luck.between(0.4, 0.8), luck.between(0.4, 0.8)];
        const show = panes(w, h, 1, 1, luck.tone(0.05, 0.6), luck.tone(0.1, 0.5), luck.whole(1, 99));
        found.push({
          corner: [corner[0] + along[0] * u + out[0] * 0.03, corner[1] + tall - 1.9, corner[2] + along[2] * u + out[2] * 0.03],
          along: [along[0] * w, lean * w, along[2] * w],
          down: [-along[0] * lean * h, h, -along[2] * lean * h],
          look: show,
        });
      } else if (roll < 0.9) {
        found.push(...block(wall, u, tall - luck.between(0.8, 2), 1, 2, luck.between(0.3, 0.6), plaster(luck.tone(0.1, 0.4), 8)));
      }
    }
  }
  for (let k = luck.whole(0, 2); k > 0; k -= 1)
    found.push(person(luck, luck.between(left + 0.5, right - 0.5), luck.between(2.5, far - 0.5), eye));
  return found;
}
