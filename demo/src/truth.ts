import { lensOf, type LensModel, type Point } from '@able-plumb/core';
import { focalPxOf, LENS_MARGIN } from './trace';
import type { Scene } from './scenes';

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
  const edges: TruthEdge[] = [];
  for (const edge of scene.edges) {
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
      edges.push({ name: edge.name, kind: edge.kind, a, b });
  }
  if (edges.length < 8) throw new Error(`${scene.name}: only ${edges.length} known edges are long enough in the frame`);
  const panels = (scene.panels ?? []).map((panel) => ({ ...panel, corners: panel.corners.map((corner) => project(corner) as Point) }));
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
    panels,
  };
}
