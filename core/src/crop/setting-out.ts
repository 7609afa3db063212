import type { Point } from '../picture/point';

/** A line over the crop: points in shares of its width and height, from its top left corner. */
export type SettingOutLine = readonly Point[];

/** One way of setting out a crop. */
export interface SettingOutWay {
  readonly name: string;
  /** How many ways it can be turned; 1 where turning changes nothing. */
  readonly attitudes: number;
  /** @param parts number of equal parts, where the way divides into a number that is chosen */
  lines(parts: number): readonly SettingOutLine[];
}

const GOLDEN = (1 + Math.sqrt(5)) / 2;
const across = (y: number): SettingOutLine => [
  [0, y],
  [1, y],
];
const down = (x: number): SettingOutLine => [
  [x, 0],
  [x, 1],
];
const both = (at: readonly number[]): readonly SettingOutLine[] => [...at.map(across), ...at.map(down)];
const divided = (parts: number): readonly SettingOutLine[] => both(Array.from({ length: parts - 1 }, (_, i) => (i + 1) / parts));

/** Quarter arcs in the squares that a golden rectangle is divided into, one after the other, shrinking; stretched to the crop. */
function goldenSpiral(): readonly SettingOutLine[] {
  const STEPS = 9;
  const ARC = 16;
  let [x, y, w, h] = [0, 0, GOLDEN, 1];
  const spiral: Point[] = [[0, 1]];
  const squares: SettingOutLine[] = [];
  for (let step = 0; step < STEPS; step += 1) {
    const side = Math.min(w, h);
    const way = step % 4;
    // the square is cut off left, top, right, bottom in turn; the arc runs about the corner that points into the rest
    const centre: Point = [
      [x + side, y + side],
      [x, y + side],
      [x + w - side, y],
      [x + side, y + h - side],
    ][way] as unknown as Point;
    for (let i = 1; i <= ARC; i += 1) {
      const angle = Math.PI * (1 + way / 2 + i / ARC / 2);
      spiral.push([(centre[0] + side * Math.cos(angle)) / GOLDEN, centre[1] + side * Math.sin(angle)]);
    }
    if (way === 0) [x, w] = [x + side, w - side];
    else if (way === 1) [y, h] = [y + side, h - side];
    else if (way === 2) w -= side;
    else h -= side;
    if (step < 5) {
      const edge: SettingOutLine =
        way === 0
          ? [
              [x, y],
              [x, y + h],
            ]
          : way === 1
            ? [
                [x, y],
                [x + w, y],
              ]
            : way === 2
              ? [
                  [x + w, y],
                  [x + w, y + h],
                ]
              : [
                  [x, y + h],
                  [x + w, y + h],
                ];
      squares.push(edge.map(([px, py]): Point => [px / GOLDEN, py]));
    }
  }
  return [spiral, ...squares];
}

/** The ways of setting out, by name; adding one is adding an entry. */
export const SETTING_OUT = {
  none: { name: 'none', attitudes: 1, lines: () => [] },
  middle: { name: 'middle', attitudes: 1, lines: () => divided(2) },
  thirds: { name: 'thirds', attitudes: 1, lines: () => divided(3) },
  quarters: { name: 'quarters', attitudes: 1, lines: () => divided(4) },
  parts: { name: 'parts', attitudes: 1, lines: divided },
  golden: { name: 'golden', attitudes: 1, lines: () => both([1 - 1 / GOLDEN, 1 / GOLDEN]) },
  diagonals: {
    name: 'diagonals',
    attitudes: 1,
    lines: () => [
      [
        [0, 0],
        [1, 1],
      ],
      [
        [0, 1],
        [1, 0],
      ],
    ],
  },
  spiral: { name: 'spiral', attitudes: 8, lines: goldenSpiral },
  // where the eye is: known only of a picture
  eye: { name: 'eye line', attitudes: 1, lines: () => [across(1 - 1 / GOLDEN)] },
} as const satisfies Readonly<Record<string, SettingOutWay>>;

export type SettingOutName = keyof typeof SETTING_OUT;

/**
 * Setting-out lines in one of their attitudes: mirrored left to right (odd), top to bottom (2, 3, 6, 7), and with the axes exchanged (4 and up).
 * @returns points in shares of the crop's width and height
 */
export function settingOutLines(name: SettingOutName, parts: number, attitude: number): readonly SettingOutLine[] {
  const way: SettingOutWay = SETTING_OUT[name];
  const a = ((attitude % way.attitudes) + way.attitudes) % way.attitudes;
  const turned = ([x, y]: Point): Point => {
    const [u, v] = a >= 4 ? [y, x] : [x, y];
    return [a % 2 === 1 ? 1 - u : u, (a >> 1) % 2 === 1 ? 1 - v : v];
  };
  return way.lines(Math.max(2, Math.min(24, Math.round(parts)))).map((line) => line.map(turned));
}

/** The eye line as a setting-out line. @param heightPercent from the crop's lower edge; what lies outside the crop is not drawn */
export const eyeLine = (heightPercent: number): readonly SettingOutLine[] =>
  heightPercent >= 0 && heightPercent <= 100 ? [across(1 - heightPercent / 100)] : [];

/** Lines as an SVG path over a rectangle. */
export const settingOutPath = (
  lines: readonly SettingOutLine[],
  rect: { readonly x: number; readonly y: number; readonly width: number; readonly height: number },
): string =>
  lines
    .map((line) => `M${line.map(([x, y]) => `${(rect.x + x * rect.width).toFixed(2)} ${(rect.y + y * rect.height).toFixed(2)}`).join('L')}`)
    .join('');
