import {
  correctionSchema,
  focalPxFrom35,
  newCorrection,
  rotationFromAttitude,
  type Attitude,
  type Correction,
  type Point,
  type ReferenceKind,
} from '../src/index';
import { dice, type Dice } from '../src/linear/dice';

export { dice, type Dice };

export const SCENE = { width: 6000, height: 4000 } as const;

/** A camera before a building: what it is in truth. */
export interface SceneCamera {
  readonly attitude: Attitude;
  readonly focalPx: number;
  readonly focal35: number;
}

/** How people stand (common practice, no published source): mostly level, looking up or down a little, at an angle to the front. */
export function randomCamera({ normal }: Dice, focal35: number): SceneCamera {
  const within = (deg: number, most: number): number => Math.max(-most, Math.min(most, deg));
  return {
    attitude: { roll: 1.5 * normal(), tilt: within(8 * normal(), 30), swing: within(15 * normal(), 40) },
    focalPx: focalPxFrom35(focal35, SCENE),
    focal35,
  };
}

const AXES: Readonly<Record<'plumb' | 'level' | 'return', readonly [number, number, number]>> = {
  plumb: [0, 1, 0],
  level: [1, 0, 0],
  return: [0, 0, 1],
};

/** Where a camera sees an axis of the world: homogeneous picture px. */
function vanishing({ attitude, focalPx }: SceneCamera, kind: keyof typeof AXES): readonly [number, number, number] {
  const r = rotationFromAttitude(attitude);
  const e = AXES[kind];
  const [x, y, z] = [0, 1, 2].map((k) => (r[k] as number) * e[0] + (r[3 + k] as number) * e[1] + (r[6 + k] as number) * e[2]) as [
    number,
    number,
    number,
  ];
  return [focalPx * x + (SCENE.width / 2) * z, focalPx * y + (SCENE.height / 2) * z, z];
}

/** A true line of a kind as that camera sees it, anywhere in the picture, a tenth to a half of its diagonal long. */
export function trueLine(d: Dice, camera: SceneCamera, kind: keyof typeof AXES): readonly [Point, Point] {
  const v = vanishing(camera, kind);
  for (;;) {
    const m: Point = [d.uniform() * SCENE.width, d.uniform() * SCENE.height];
    const [dx, dy] = [v[0] - v[2] * m[0], v[1] - v[2] * m[1]];
    const length = Math.hypot(dx, dy);
    const half = (0.05 + 0.2 * d.uniform()) * Math.hypot(SCENE.width, SCENE.height);
    const [ux, uy] = [(dx / length) * half, (dy / length) * half];
    const ends: readonly [Point, Point] = [
      [m[0] - ux, m[1] - uy],
      [m[0] + ux, m[1] + uy],
    ];
    const inside = ends.every(([x, y]) => x >= 0 && y >= 0 && x <= SCENE.width && y <= SCENE.height);
    // not across the meeting point, where the line would come from behind
    const across =
      v[2] !== 0 &&
      ends.some(
        ([x, y]) => ((v[0] / v[2] - x) * ux + (v[1] / v[2] - y) * uy) * ((v[0] / v[2] - m[0]) * ux + (v[1] / v[2] - m[1]) * uy) <= 0,
      );
    if (inside && !across) return ends;
  }
}

/** A picture's correction before anything is drawn, with what is known of its focal length. */
export function openedScene(camera: Partial<Correction['camera']>): Correction {
  const base = newCorrection({ name: 'scene', ...SCENE, focal35: null });
  return correctionSchema.parse({ ...base, camera: { ...base.camera, ...camera } });
}

/** References of kinds, pointed at with a deviation in px across them, bent by a lens of one coefficient beforehand. */
export function pointedLines(
  d: Dice,
  camera: SceneCamera,
  kinds: readonly ('plumb' | 'level' | 'return')[],
  sdPx: number,
  bend = 0,
): Correction['references'] {
  const half = Math.hypot(SCENE.width, SCENE.height) / 2;
  const bent = ([x, y]: Point): Point => {
    const [dx, dy] = [x - SCENE.width / 2, y - SCENE.height / 2];
    const s = 1 + (bend * (dx * dx + dy * dy)) / (half * half);
    return [SCENE.width / 2 + dx * s, SCENE.height / 2 + dy * s];
  };
  return kinds.map((kind, i) => {
    const [p, q] = trueLine(d, camera, kind);
    const [a, b, m] = [bent(p), bent(q), bent([(p[0] + q[0]) / 2, (p[1] + q[1]) / 2])];
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
    const [nx, ny] = [-(b[1] - a[1]) / length, (b[0] - a[0]) / length];
    const bowPx = (m[0] - (a[0] + b[0]) / 2) * nx + (m[1] - (a[1] + b[1]) / 2) * ny;
    const noisy = ([x, y]: Point): [number, number] => {
      const by = sdPx * d.normal();
      return [x + nx * by, y + ny * by];
    };
    return {
      id: `r${i + 1}`,
      kind: kind as ReferenceKind,
      a: noisy(a),
      b: noisy(b),
      statedAngle: 0,
      used: true,
      placedPx: sdPx,
      ...(bend === 0 ? {} : { bowPx }),
    };
  });
}

/** Corners of an upright rectangle on the front as that camera sees it, all in the picture, and its width over its height. */
export function panelCorners(d: Dice, { attitude, focalPx }: SceneCamera): { readonly corners: readonly Point[]; readonly ratio: number } {
  const r = rotationFromAttitude(attitude);
  for (;;) {
    // about a point that the picture shows, on a front two away
    const ray = [(d.uniform() - 0.5) * SCENE.width, (d.uniform() - 0.5) * SCENE.height, focalPx] as const;
    const [wx, wy, wz] = [0, 3, 6].map(
      (k) => (r[k] as number) * ray[0] + (r[k + 1] as number) * ray[1] + (r[k + 2] as number) * ray[2],
    ) as [number, number, number];
    const most = (2 * SCENE.height) / focalPx;
    const [width, height] = [(0.15 + 0.6 * d.uniform()) * most, (0.15 + 0.6 * d.uniform()) * most];
    const [x, y] = [(2 * wx) / wz - width / 2, (2 * wy) / wz - height / 2];
    const corners = [
      [x, y],
      [x + width, y],
      [x + width, y + height],
      [x, y + height],
    ].map(([u, v]): Point | null => {
      const w = [u as number, v as number, 2] as const;
      const [cx, cy, cz] = [0, 1, 2].map((k) => (r[k] as number) * w[0] + (r[3 + k] as number) * w[1] + (r[6 + k] as number) * w[2]) as [
        number,
        number,
        number,
      ];
      return cz > 0.1 ? [(focalPx * cx) / cz + SCENE.width / 2, (focalPx * cy) / cz + SCENE.height / 2] : null;
    });
    const inside = wz > 0 && corners.every((p) => p !== null && p[0] > 0 && p[1] > 0 && p[0] < SCENE.width && p[1] < SCENE.height);
    if (inside) return { corners: corners as Point[], ratio: width / height };
  }
}
