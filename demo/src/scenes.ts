/** One known straight edge of a scene: what it is in reality and its two ends (metres; x right, y up, z away). */
export interface SceneEdge {
  readonly name: string;
  readonly kind: 'plumb' | 'level' | 'return' | 'eye';
  readonly from: readonly [number, number, number];
  readonly to: readonly [number, number, number];
}

/** A rectangle of known size in a scene, corners from top left clockwise as seen; metres. */
export interface ScenePanel {
  readonly name: string;
  readonly corners: readonly (readonly [number, number, number])[];
  readonly widthMm: number;
  readonly heightMm: number;
}

/** A head in a scene: an upright ellipsoid, its middle and half axes in metres, turned about the vertical (degrees, as the ray tracer counts). */
export interface SceneHead {
  readonly name: string;
  readonly centre: readonly [number, number, number];
  readonly halfAxes: readonly [number, number, number];
  readonly turnedDeg: number;
}

/** One picture of the demo job: the camera that took it and what is known about the place. Angles in degrees. */
export interface Scene {
  readonly name: string;
  readonly include: string;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly focal35: number;
  readonly position: readonly [number, number, number];
  readonly rollDeg: number;
  readonly tiltDeg: number;
  readonly swingDeg: number;
  /** Radial model in half diagonals, or none. */
  readonly lens?: { readonly k1: number; readonly k2: number };
  /** Value of the orientation tag that the file carries; the pixels are stored to match. */
  readonly orientation: 1 | 6 | 8;
  readonly lensName: string;
  readonly takenAt: string;
  readonly edges: readonly SceneEdge[];
  /** What should be level and is not, as it lies. */
  readonly sunk?: readonly SceneEdge[];
  readonly panels?: readonly ScenePanel[];
  readonly heads?: readonly SceneHead[];
}

type P3 = readonly [number, number, number];
const plumb = (name: string, x: number, z: number, y0: number, y1: number): SceneEdge => ({
  name,
  kind: 'plumb',
  from: [x, y1, z],
  to: [x, y0, z],
});
const level = (name: string, y: number, z: number, x0: number, x1: number): SceneEdge => ({
  name,
  kind: 'level',
  from: [x0, y, z],
  to: [x1, y, z],
});
const back = (name: string, x: number, y: number, z0: number, z1: number): SceneEdge => ({
  name,
  kind: 'return',
  from: [x, y, z0],
  to: [x, y, z1],
});
/** The upper edge of a beam about a middle, its right end lower by an angle in degrees. */
const sunk = (name: string, [x, y]: readonly [number, number], half: number, up: number, z: number, deg: number): SceneEdge => {
  const [c, s] = [Math.cos((deg * Math.PI) / 180), Math.sin((deg * Math.PI) / 180)];
  const end = (along: number): P3 => [x + along * c + up * s, y - along * s + up * c, z];
  return { name, kind: 'level', from: end(-half), to: end(half) };
};
const rect = (x0: number, x1: number, y0: number, y1: number, z: number): readonly P3[] => [
  [x0, y1, z],
  [x1, y1, z],
  [x1, y0, z],
  [x0, y0, z],
];

/** The pictures of the Tarnbeck survey that come from the ray tracer. */
export const SCENES: readonly Scene[] = [
  {
    name: 'reservoir',
    include: 'reservoir.inc',
    widthPx: 3600,
    heightPx: 2400,
    focal35: 35,
    position: [0, 2.25, -2],
    rollDeg: 1.48,
    tiltDeg: 0,
    swingDeg: 0,
    orientation: 1,
    lensName: 'Hollin 35 mm f/2',
    takenAt: '2026:04:14 09:12:31',
    edges: [
      level('waterline of the far bank', 0, 150, -70, 70),
      level('foot of the parapet', 3.6, 151.8, -70, 70),
      level('top of the parapet', 4.5, 151.8, -70, 70),
      level('near coping, water side', 0.55, 4.6, -2.2, 2.2),
      level('near coping, path side', 0.55, 3.3, -1.8, 1.8),
      plumb('railing post 1', -1.9 - 0.045, 3.75, 0.55, 1.62),
      plumb('railing post 2', 0 - 0.045, 3.75, 0.55, 1.62),
      plumb('railing post 3', 1.9 - 0.045, 3.75, 0.55, 1.62),
      plumb("keeper's house, left corner", -39, 160, 4.6, 8.8),
      plumb("keeper's house, right corner", -29, 160, 4.6, 8.8),
    ],
  },
  {
    name: 'pump-hall-front',
    include: 'pump-hall.inc',
    widthPx: 6000,
    heightPx: 4000,
    focal35: 20,
    position: [-1.5, 1.6, -15],
    rollDeg: -1.4,
    tiltDeg: 13,
    swingDeg: 4,
    orientation: 1,
    lensName: 'Hollin 20 mm f/2.8',
    takenAt: '2026:04:14 10:03:05',
    edges: [
      plumb('left pier, outer', -9.15, -0.2, 1.1, 9.4),
      plumb('left pier, inner', -8.15, -0.2, 1.1, 9.4),
      plumb('right pier, inner', 8.15, -0.2, 1.1, 9.4),
      plumb('right pier, outer', 9.15, -0.2, 1.1, 9.4),
      plumb('left pilaster', -5.22, -0.12, 1.1, 8.62),
      plumb('right pilaster', 5.22, -0.12, 1.1, 8.62),
      level('cornice, lower', 9.4, -0.28, -9.25, 9.25),
      level('cornice, upper', 9.75, -0.28, -9.25, 9.25),
      level('string course', 8.62, -0.14, -9.1, 9.1),
      level('top of the base', 1.1, -0.18, -9.15, -1.65),
      level('name stone, lower', 7.3, -0.12, -3.1, 3.1),
      level('name stone, upper', 8.2, -0.12, -3.1, 3.1),
    ],
    panels: [{ name: 'name stone', corners: rect(-3.1, 3.1, 7.3, 8.2, -0.12), widthMm: 6200, heightMm: 900 }],
  },
  {
    name: 'water-tower',
    include: 'water-tower.inc',
    widthPx: 2400,
    heightPx: 3600,
    focal35: 24,
    position: [3, 1.6, -17],
    rollDeg: 4.2,
    tiltDeg: 27,
    swingDeg: -6,
    orientation: 6,
    lensName: 'Hollin 24 mm f/2.8',
    takenAt: '2026:04:14 10:41:50',
    edges: [
      plumb('left pier, outer', -3.45, -0.25, 1.5, 16.6),
      plumb('left pier, inner', -2.45, -0.25, 1.5, 16.6),
      plumb('right pier, inner', 2.45, -0.25, 1.5, 16.6),
      plumb('right pier, outer', 3.45, -0.25, 1.5, 16.6),
      level('top of the base', 1.3, -0.4, -3.6, 3.6),
      level('first string course', 6.4, -0.32, -3.52, 3.52),
      level('second string course', 11.3, -0.32, -3.52, 3.52),
      level('corbel table, upper', 18.15, -0.9, -4.1, 4.1),
      level('corbel table, lower', 17.8, -0.9, -4.1, 4.1),
      level('tank, top rail', 22.25, -0.79, -3.99, 3.99),
    ],
    panels: [{ name: 'tank face', corners: rect(-3.99, 3.99, 18.1, 22.25, -0.79), widthMm: 7980, heightMm: 4150 }],
  },
  {
    name: 'engine-hall',
    include: 'engine-hall.inc',
    widthPx: 3600,
    heightPx: 2400,
    focal35: 18,
    position: [-0.6, 1.75, -3],
    rollDeg: 0.8,
    tiltDeg: -2.5,
    swingDeg: 3,
    lens: { k1: -0.072, k2: 0.011 },
    orientation: 1,
    lensName: 'Hollin Zoom 18-35 mm f/4',
    takenAt: '2026:04:14 11:20:17',
    edges: [
      plumb('right wall, pier 2, near', 6.78, 6.2, 0, 6.4),
      plumb('right wall, pier 2, far', 6.78, 6.8, 0, 6.8),
      plumb('left wall, pier 2, near', -6.78, 6.2, 0, 6.4),
      plumb('left wall, pier 2, far', -6.78, 6.8, 0, 6.8),
      plumb('left wall, pier 4, near', -6.78, 15.0, 0, 6.8),
      plumb('clock door, left', -1.2, 26, 0.2, 3.2),
      plumb('clock door, right', 1.2, 26, 0.2, 3.2),
      level('crane girder, lower', 7.3, 17, -6.4, 6.4),
      level('crane girder, upper', 7.75, 17, -6.4, 6.4),
      level('floor joint 4 m', 0, 2, -5, 3.6),
      level('floor joint 6 m', 0, 4, -5, 3.6),
      level('dado of the far wall', 1.47, 25.93, -6.9, -1.2),
      back('left dado', -6.93, 1.47, 2, 25),
      back('crane rail, left', -6.4, 6.9, 6, 26),
      back('crane rail, right', 6.4, 6.9, 6, 26),
      back('floor joint, middle', 0, 0, 0.5, 25),
      back('floor joint, left', -2, 0, 1, 25),
    ],
    // Person(1.78, ...) of common.inc: its head lies at 1.645 m of a person of 1.76 m
    heads: [
      {
        name: 'engineman',
        centre: [4.35, (1.645 * 1.78) / 1.76, 2.9],
        halfAxes: [(0.076 * 1.78) / 1.76, (0.112 * 1.78) / 1.76, (0.0874 * 1.78) / 1.76],
        turnedDeg: 24,
      },
    ],
  },
  {
    name: 'filter-gallery',
    include: 'filter-gallery.inc',
    widthPx: 3000,
    heightPx: 2000,
    focal35: 24,
    position: [-0.3, 1.85, -2.5],
    rollDeg: -2.2,
    tiltDeg: -6,
    swingDeg: -3,
    orientation: 1,
    lensName: 'Hollin 24 mm f/2.8',
    takenAt: '2026:04:14 13:05:44',
    edges: [
      plumb('left rib 2', -2.42, 3.1, 0, 2.4),
      plumb('left rib 3', -2.42, 6.7, 0, 2.4),
      plumb('left rib 4', -2.42, 10.3, 0, 2.4),
      plumb('door, left', -1.0, 23.16, 0, 2.3),
      plumb('door, right', 1.0, 23.16, 0, 2.3),
      level('floor joint 2 m', 0, 2.0, -1.5, 1.3),
      level('floor joint 4 m', 0, 4.0, -1.5, 1.3),
      level('floor joint 8 m', 0, 8.0, -1.5, 1.3),
      level('foot of the end wall', 0, 23.16, -2.4, 1.6),
      back('floor band, left', -1.5, 0, 0, 22),
      back('floor band, left outer', -1.6, 0, 0, 22),
      back('floor band, right', 1.5, 0, 1, 22),
    ],
  },
  {
    name: 'name-plate',
    include: 'name-plate.inc',
    widthPx: 3000,
    heightPx: 2000,
    focal35: 38,
    position: [-1.9, 1.2, -2.75],
    rollDeg: -1.5,
    tiltDeg: 5,
    swingDeg: 33,
    orientation: 1,
    lensName: 'Hollin 38 mm f/2',
    takenAt: '2026:04:14 14:22:09',
    edges: [
      plumb('plate, left', -0.6, -0.008, 1.25, 1.7),
      plumb('plate, right', 0.6, -0.008, 1.25, 1.7),
      plumb('rule, left', -0.57, -0.01, 1.28, 1.67),
      plumb('rule, right', 0.57, -0.01, 1.28, 1.67),
      level('plate, top', 1.7, -0.008, -0.6, 0.6),
      level('plate, bottom', 1.25, -0.008, -0.6, 0.6),
      level('rule, top', 1.67, -0.01, -0.57, 0.57),
      level('rule, bottom', 1.28, -0.01, -0.57, 0.57),
    ],
    sunk: [sunk('kerb, where its top meets the wall', [-0.85, 0.88], 0.5, 0.05, 0, 4)],
    panels: [{ name: 'enamel plate', corners: rect(-0.6, 0.6, 1.25, 1.7, -0.008), widthMm: 1200, heightMm: 450 }],
  },
  {
    name: 'stair',
    include: 'stair.inc',
    widthPx: 2000,
    heightPx: 3000,
    focal35: 28,
    position: [-0.5, 1.6, -3.6],
    rollDeg: 3,
    tiltDeg: 14,
    swingDeg: 8,
    orientation: 1,
    lensName: 'Hollin 28 mm f/2',
    takenAt: '2026:04:14 15:01:38',
    edges: [
      plumb('door, left', -0.5, 7.84, 2.5, 4.63),
      plumb('door, right', 0.5, 7.84, 2.5, 4.63),
      plumb('door case, left', -0.62, 7.88, 2.5, 4.75),
      plumb('door case, right', 0.62, 7.88, 2.5, 4.75),
      plumb('far corner, left', -2.0, 8.0, 3.6, 6.6),
      plumb('far corner, right', 2.0, 8.0, 3.6, 6.6),
      level('tread 4', 0.68, 1.0, -1.3, 1.3),
      level('tread 8', 1.36, 2.12, -1.3, 1.3),
      level('tread 12', 2.04, 3.24, -1.3, 1.3),
      level('dado of the landing', 3.58, 7.92, -2.0, 2.0),
      level('head of the door', 4.63, 7.84, -0.5, 0.5),
    ],
  },
];

/** A print on the sheet scan: which picture it shows, its centre and size in mm on the bed, its angle (anticlockwise as seen). */
export interface SheetPrint {
  readonly picture: string;
  readonly centreMm: readonly [number, number];
  readonly widthMm: number;
  readonly heightMm: number;
  readonly angleDeg: number;
}

/** The flatbed scan: five old prints lying askew; 300 ppi. */
export const SHEET = {
  name: 'prints-sheet',
  widthPx: 3400,
  heightPx: 2600,
  ppi: 300,
  takenAt: '2026:04:20 16:40:00',
  prints: [
    { picture: 'pump-hall-front', centreMm: [70, 60], widthMm: 124, heightMm: 88, angleDeg: 2.3 },
    { picture: 'water-tower', centreMm: [173, 62], widthMm: 62, heightMm: 88, angleDeg: -3.1 },
    { picture: 'reservoir', centreMm: [248, 52], widthMm: 72, heightMm: 52, angleDeg: 1.17 },
    { picture: 'engine-hall', centreMm: [70, 160], widthMm: 118, heightMm: 82, angleDeg: -1.6 },
    { picture: 'filter-gallery', centreMm: [206, 164], widthMm: 124, heightMm: 86, angleDeg: 4.4 },
  ] as readonly SheetPrint[],
} as const;
