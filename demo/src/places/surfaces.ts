/** A colour as light, red, green and blue, 0..1. */
export type Light = readonly [number, number, number];
export type Metres = readonly [number, number, number];
/** What a surface looks like at (u, v), metres from its corner along its two sides. */
export type Look = (u: number, v: number) => Light;
/** Where a surface is there. */
export type Shape = (u: number, v: number) => boolean;

/** A flat piece of a place: a parallelogram from a corner along two sides; metres, x right, y down, z away from the camera. */
export interface Surface {
  readonly corner: Metres;
  readonly along: Metres;
  readonly down: Metres;
  readonly look: Look;
  /** The whole parallelogram without one. */
  readonly shape?: Shape;
}

/** Chance that depends on a place alone, 0..1. Source: integer hashing by multiplication and shifts, from memory. */
export function chanceAt(i: number, j: number, salt: number): number {
  let h = (Math.imul(i, 374761393) + Math.imul(j, 668265263) + Math.imul(salt, 2147483647)) | 0;
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

/** Smooth noise, 0..1, changing over a metre. Its lattice lies aslant, so that nothing in it runs plumb or level. */
export function noise(along: number, down: number, salt: number): number {
  const [u, v] = [0.8 * along - 0.6 * down, 0.6 * along + 0.8 * down];
  const [i, j] = [Math.floor(u), Math.floor(v)];
  const [x, y] = [u - i, v - j];
  const [s, t] = [x * x * (3 - 2 * x), y * y * (3 - 2 * y)];
  const top = chanceAt(i, j, salt) * (1 - s) + chanceAt(i + 1, j, salt) * s;
  const low = chanceAt(i, j + 1, salt) * (1 - s) + chanceAt(i + 1, j + 1, salt) * s;
  return top * (1 - t) + low * t;
}

/** Noise of several sizes, about 0.5. */
export const rough = (u: number, v: number, salt: number): number =>
  0.5 * noise(u, v, salt) + 0.3 * noise(2.3 * u, 2.3 * v, salt + 1) + 0.2 * noise(5.1 * u, 5.1 * v, salt + 2);

export const shade = ([r, g, b]: Light, by: number): Light => [r * by, g * by, b * by];

/** Plaster or stone: stained, without any joint. */
export const plaster =
  (base: Light, salt: number): Look =>
  (u, v) =>
    shade(base, 0.82 + 0.2 * rough(u * 0.7, v * 0.7, salt) + 0.1 * noise(u * 18, v * 18, salt + 5));

/** Courses of bricks or ashlar. */
export const masonry =
  (base: Light, joint: Light, width: number, height: number, gap: number, salt: number): Look =>
  (u, v) => {
    const row = Math.floor(v / height);
    const at = u / width + (row % 2 === 0 ? 0 : 0.5);
    const column = Math.floor(at);
    const inJoint = v - row * height < gap || (at - column) * width < gap;
    const stain = 0.8 + 0.3 * rough(u * 0.6, v * 0.6, salt);
    return shade(inJoint ? joint : base, stain * (inJoint ? 1 : 0.8 + 0.35 * chanceAt(column, row, salt + 3)));
  };

/** A window or door leaf: a frame with panes. */
export const panes =
  (width: number, height: number, columns: number, rows: number, frame: Light, glass: Light, salt: number): Look =>
  (u, v) => {
    const border = 0.07;
    const bar = 0.035;
    if (u < border || v < border || u > width - border || v > height - border) return frame;
    const [s, t] = [((u - border) / (width - 2 * border)) * columns, ((v - border) / (height - 2 * border)) * rows];
    const near = (x: number, size: number): boolean => Math.abs(x - Math.round(x)) * size < bar / 2;
    if (near(s, (width - 2 * border) / columns) || near(t, (height - 2 * border) / rows)) return frame;
    return shade(glass, 0.5 + rough(u * 0.8 + salt, v * 0.5, salt));
  };

/** The same surface in the shadow of something above and to one side: a slanted edge of light. */
export const shadowed =
  (look: Look, lean: number, from: number): Look =>
  (u, v) => {
    const light = look(u, v);
    return u + v * lean < from ? shade(light, 0.55) : light;
  };

/** A wall that things are put on: its corner at the top left as it is seen, the way along it, and how far out of it towards the viewer. */
export interface Wall {
  readonly corner: Metres;
  readonly along: Metres;
  readonly out: Metres;
}

const at = ({ corner, along, out }: Wall, u: number, v: number, w: number): Metres => [
  corner[0] + along[0] * u + out[0] * w,
  corner[1] + v,
  corner[2] + along[2] * u + out[2] * w,
];
const times = (p: Metres, s: number): Metres => [p[0] * s, p[1] * s, p[2] * s];

/** A rectangle on a wall, `w` metres out of it. */
export const patch = (wall: Wall, u: number, v: number, width: number, height: number, w: number, look: Look): Surface => ({
  corner: at(wall, u, v, w),
  along: times(wall.along, width),
  down: [0, height, 0],
  look,
});

/** A block on a wall: its face, its sides, what is above and below; into the wall where `w` is less than `base`. */
export function block(
  wall: Wall,
  u: number,
  v: number,
  width: number,
  height: number,
  w: number,
  look: Look,
  base = 0,
): readonly Surface[] {
  const side =
    (s: number): Look =>
    (p, q) =>
      shade(look(p, q), s);
  const depth = times(wall.out, base - w);
  return [
    patch(wall, u, v, width, height, w, look),
    { corner: at(wall, u, v, w), along: depth, down: [0, height, 0], look: side(0.7) },
    { corner: at(wall, u + width, v, w), along: depth, down: [0, height, 0], look: side(0.85) },
    { corner: at(wall, u, v, w), along: times(wall.along, width), down: depth, look: side(1.1) },
    { corner: at(wall, u, v + height, w), along: times(wall.along, width), down: depth, look: side(0.45) },
  ];
}
