import { lensOf, type LensModel, type Point } from '@able-plumb/core';
import { focalPxOf, LENS_MARGIN } from './trace';
import type { Scene, SceneEdge, SceneHead } from './scenes';

/** A known straight edge as the picture shows it; ends in picture px, clipped to the frame. */
export interface TruthEdge {
  readonly name: string;
  readonly kind: 'plumb' | 'level' | 'return' | 'eye';
  readonly a: Point;
  readonly b: Point;
}

/** What is known of a demo picture; lies beside it as NAME.truth.json. */
export interface Truth {
  readonly picture: string;
  readonly width: number;
  readonly height: number;
  readonly focal35: number;
  readonly focalPx: number;
  readonly centre: Point;
  readonly lens: LensModel;
  readonly stance: { readonly roll: number; readonly tilt: number; readonly swing: number };
  readonly edges: readonly TruthEdge[];
  /** What should be level and is not, as it lies, picture px. */
  readonly sunk?: readonly TruthEdge[];
  /** Silhouettes of heads, picture px, and their width for their height in a picture taken facing them, upright. */
  readonly heads?: readonly { readonly name: string; readonly outline: readonly Point[]; readonly proportion: number }[];
  readonly panels: readonly {
    readonly name: string;
    readonly corners: readonly Point[];
    readonly widthMm: number;
    readonly heightMm: number;
  }[];
}

type P3 = readonly [number, number, number];

/** Lens of a scene as a correction writes it. */
export const lensModelOf = (scene: Scene): LensModel =>
  scene.lens ? { kind: 'radial', cx: scene.widthPx / 2, cy: scene.heightPx / 2, ...scene.lens } : { kind: 'none' };

/** A scene point (y up) in camera axes (y down): written out here so that it can be held against the core. */
export function toCamera(scene: Scene, point: P3): P3 {
  const rad = (deg: number): number => (deg * Math.PI) / 180;
  let [x, y, z] = [point[0] - scene.position[0], -(point[1] - scene.position[1]), point[2] - scene.position[2]];
  // undo swing, then tilt, then roll
  const [cs, ss] = [Math.cos(rad(scene.swingDeg)), Math.sin(rad(scene.swingDeg))];
  [x, z] = [cs * x - ss * z, ss * x + cs * z];
  const [ct, st] = [Math.cos(rad(scene.tiltDeg)), Math.sin(rad(scene.tiltDeg))];
  [y, z] = [ct * y + st * z, -st * y + ct * z];
  const [cr, sr] = [Math.cos(rad(scene.rollDeg)), Math.sin(rad(scene.rollDeg))];
  [x, y] = [cr * x + sr * y, -sr * x + cr * y];
  return [x, y, z];
}

/** Points of an ellipsoid where rays from the camera graze it, scene axes: the ellipse in which its polar plane cuts it. */
function silhouette(scene: Scene, head: SceneHead): P3[] {
  const turn = (deg: number, [x, y, z]: P3): P3 => {
    const [c, s] = [Math.cos((deg * Math.PI) / 180), Math.sin((deg * Math.PI) / 180)];
    return [c * x + s * z, y, -s * x + c * z];
  };
  const [a, b, c] = head.halfAxes;
  const from = [0, 1, 2].map((i) => (scene.position[i] as number) - (head.centre[i] as number)) as unknown as P3;
  // the camera in the axes of the unit sphere that the ellipsoid is stretched from
  const [ex, ey, ez] = turn(-head.turnedDeg, from);
  const e: P3 = [ex / a, ey / b, ez / c];
  const far = Math.hypot(...e);
  const n: P3 = [e[0] / far, e[1] / far, e[2] / far];
  const across = Math.hypot(n[0], n[2]);
  const u: P3 = [n[2] / across, 0, -n[0] / across];
  const v: P3 = [n[1] * u[2], n[2] * u[0] - n[0] * u[2], -n[1] * u[0]];
  const [depth, radius] = [1 / far, Math.sqrt(1 - 1 / far ** 2)];
  return Array.from({ length: 96 }, (_, i) => {
    const [p, q] = [radius * Math.cos((Math.PI * i) / 48), radius * Math.sin((Math.PI * i) / 48)];
    const s = [0, 1, 2].map((k) => depth * (n[k] as number) + p * (u[k] as number) + q * (v[k] as number)) as unknown as P3;
    const [x, y, z] = turn(head.turnedDeg, [s[0] * a, s[1] * b, s[2] * c]);
    return [x + head.centre[0], y + head.centre[1], z + head.centre[2]];
  });
}

/** Width for height of scene points in a picture taken from the camera's place facing a point of the scene, upright. */
function facedProportion(scene: Scene, points: readonly P3[], at: P3): number {
  const [dx, dy, dz] = [0, 1, 2].map((i) => (at[i] as number) - (scene.position[i] as number)) as unknown as P3;
  const [level, far] = [Math.hypot(dx, dz), Math.hypot(dx, dy, dz)];
  const shown = points.map((p): Point => {
    const [x, y, z] = [0, 1, 2].map((i) => (p[i] as number) - (scene.position[i] as number)) as unknown as P3;
    const depth = (x * dx + y * dy + z * dz) / far;
    return [(x * dz - z * dx) / level / depth, (y * level - ((x * dx + z * dz) / level) * dy) / far / depth];
  });
  const extent = (k: 0 | 1): number => Math.max(...shown.map((p) => p[k])) - Math.min(...shown.map((p) => p[k]));
  return extent(0) / extent(1);
}

/** Everything known of a scene, in the pixels of its picture. */
export function truthOf(scene: Scene): Truth {
  const { widthPx: width, heightPx: height } = scene;
  const f = focalPxOf(scene);
  const lens = lensOf(lensModelOf(scene), scene.lens ? { width, height } : { width: width * LENS_MARGIN, height: height * LENS_MARGIN });
  const out = new Float64Array(2);
  const project = (p: P3): Point | null => {
    const [x, y, z] = toCamera(scene, p);
    if (z < 0.05) return null;
    const ideal: Point = [(f * x) / z + width / 2, (f * y) / z + height / 2];
    if (!scene.lens) return ideal;
    return lens.distort(ideal[0], ideal[1], out) ? [out[0] as number, out[1] as number] : null;
  };
  const inFrame = (p: Point | null): p is Point => p !== null && p[0] >= 2 && p[1] >= 2 && p[0] <= width - 2 && p[1] <= height - 2;
  const seen = (edge: SceneEdge): TruthEdge[] => {
    // a thousand points along the edge: the longest run inside the frame
    const points = Array.from({ length: 1001 }, (_, k) => {
      const t = k / 1000;
      return project([0, 1, 2].map((i) => (edge.from[i] as number) * (1 - t) + (edge.to[i] as number) * t) as unknown as P3);
    });
    let best: readonly [number, number] = [0, -1];
    for (let i = 0; i <= 1000; i += 1) {
      if (!inFrame(points[i] ?? null)) continue;
      let j = i;
      while (j < 1000 && inFrame(points[j + 1] ?? null)) j += 1;
      if (j - i > best[1] - best[0]) best = [i, j];
      i = j;
    }
    const [a, b] = [points[best[0]], points[best[1]]];
    if (a && b && Math.hypot(a[0] - b[0], a[1] - b[1]) > 0.03 * Math.hypot(width, height))
      return [{ name: edge.name, kind: edge.kind, a, b }];
    return [];
  };
  const edges = scene.edges.flatMap(seen);
  const sunk = scene.sunk?.flatMap(seen);
  if (edges.length < 8) throw new Error(`${scene.name}: only ${edges.length} known edges are long enough in the frame`);
  const panels = (scene.panels ?? []).map((panel) => ({ ...panel, corners: panel.corners.map((corner) => project(corner) as Point) }));
  const heads = scene.heads?.map((head) => {
    const points = silhouette(scene, head);
    return {
      name: head.name,
      outline: points.map((p) => project(p) as Point),
      proportion: facedProportion(scene, points, head.centre),
    };
  });
  return {
    picture: `${scene.name}.jpg`,
    width,
    height,
    focal35: scene.focal35,
    focalPx: f,
    centre: [width / 2, height / 2],
    lens: lensModelOf(scene),
    stance: { roll: scene.rollDeg, tilt: scene.tiltDeg, swing: scene.swingDeg },
    edges,
    ...(sunk ? { sunk } : {}),
    ...(heads ? { heads } : {}),
    panels,
  };
}
