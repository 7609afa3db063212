import type { Correction } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import type { Point, Size } from '../picture/point';
import { clipToRect, isInside, polygonArea } from '../picture/polygon';

/** Cells along the longer side by which empty parts are told apart. */
const CELLS = 240;

/** An empty part of a crop. */
export interface EmptyPart {
  /** Where it lies as the file shows it: "top left corner", "left side". */
  readonly name: string;
  /** Share of the crop, 0..1. */
  readonly share: number;
  /** A place well inside, on the plane, px. */
  readonly at: Point;
  /** Whether it stays empty. */
  readonly left: boolean;
}

interface Labelled {
  readonly columns: number;
  readonly rows: number;
  /** Number of the part from 1 on; 0 where there is picture. */
  readonly labels: Int32Array;
  readonly parts: readonly EmptyPart[];
}

const known = new WeakMap<Warp, { readonly fill: Correction['crop']['fill']; readonly labelled: Labelled }>();

/** The empty parts of a crop, largest first; those that hold no cell of some 240 along the longer side are left out. */
export const emptyParts = (correction: Correction, warp: Warp): readonly EmptyPart[] =>
  [...labelled(correction, warp).parts].sort((a, b) => b.share - a.share);

/** More than this share filled is said with a warning. */
export const MUCH_FILLED = 0.15;

/** Share of the crop that is filled, 0..1: what is empty and not to be left. */
export function filledShare(correction: Correction, warp: Warp): number {
  const { crop, outline } = warp;
  if (correction.crop.edges !== 'fill') return 0;
  const empty = 1 - polygonArea(clipToRect(outline, crop)) / (crop.width * crop.height);
  const left = labelled(correction, warp).parts.reduce((sum, part) => sum + (part.left ? part.share : 0), 0);
  return empty < 1e-9 ? 0 : Math.max(0, empty - left);
}

/** Tells whether a pixel of the result lies in a part that stays empty; null where none does. */
export function leftParts(correction: Correction, warp: Warp, size: Size): ((x: number, y: number) => boolean) | null {
  if (correction.crop.fill.leave.length === 0) return null;
  const { columns, rows, labels, parts } = labelled(correction, warp);
  if (!parts.some(({ left }) => left)) return null;
  return (x, y) => {
    const [i, j] = [Math.floor((x / size.width) * columns), Math.floor((y / size.height) * rows)];
    // a pixel at the rim of a part may lie in a cell of the picture
    for (let reach = 0; reach <= 2; reach += 1)
      for (let v = Math.max(0, j - reach); v <= Math.min(rows - 1, j + reach); v += 1)
        for (let u = Math.max(0, i - reach); u <= Math.min(columns - 1, i + reach); u += 1) {
          const label = labels[v * columns + u] as number;
          if (label > 0) return (parts[label - 1] as EmptyPart).left;
        }
    return false;
  };
}

function labelled(correction: Correction, warp: Warp): Labelled {
  const before = known.get(warp);
  if (before?.fill === correction.crop.fill) return before.labelled;
  const made = newLabels(correction, warp);
  known.set(warp, { fill: correction.crop.fill, labelled: made });
  return made;
}

function newLabels({ crop: { fill } }: Correction, warp: Warp): Labelled {
  const { width, height } = warp.outputSize;
  const scale = CELLS / Math.max(width, height);
  const [columns, rows] = [Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale))];
  const [origin, unit] = [warp.outputToPlane(0, 0), warp.outputToPlane(width, height)];
  const outline = warp.outline.map(([x, y]): Point => [
    ((x - origin[0]) / (unit[0] - origin[0])) * columns,
    ((y - origin[1]) / (unit[1] - origin[1])) * rows,
  ]);
  const labels = new Int32Array(columns * rows).fill(-1);
  for (let j = 0, k = 0; j < rows; j += 1)
    for (let i = 0; i < columns; i += 1, k += 1) if (isInside(outline, [i + 0.5, j + 0.5])) labels[k] = 0;
  const parts: EmptyPart[] = [];
  for (let start = 0; start < labels.length; start += 1) {
    if (labels[start] !== -1) continue;
    const label = parts.length + 1;
    const cells = [start];
    labels[start] = label;
    for (let n = 0; n < cells.length; n += 1) {
      const at = cells[n] as number;
      const [i, j] = [at % columns, Math.floor(at / columns)];
      for (const [u, v] of [
        [i - 1, j],
        [i + 1, j],
        [i, j - 1],
        [i, j + 1],
      ] as const) {
        const next = v * columns + u;
        if (u < 0 || v < 0 || u >= columns || v >= rows || labels[next] !== -1) continue;
        labels[next] = label;
        cells.push(next);
      }
    }
    const inside = cells.map((at): Point => [at % columns, Math.floor(at / columns)]);
    const deepest = deepestOf(labels, columns, rows, label, inside);
    const at = warp.outputToPlane(((deepest[0] + 0.5) / columns) * width, ((deepest[1] + 0.5) / rows) * height);
    parts.push({ name: nameOf(inside, columns, rows), share: cells.length / labels.length, at, left: false });
  }
  const left = fill.leave.map((p) => nearestPart(p, warp, labels, columns, rows));
  return { columns, rows, labels, parts: parts.map((part, i) => ({ ...part, left: left.includes(i + 1) })) };
}

/** The part that a plane point lies in, or the nearest one within a few cells; 0 for none. */
function nearestPart([x, y]: Point, warp: Warp, labels: Int32Array, columns: number, rows: number): number {
  const { width, height } = warp.outputSize;
  const [origin, unit] = [warp.outputToPlane(0, 0), warp.outputToPlane(width, height)];
  const [u, v] = [((x - origin[0]) / (unit[0] - origin[0])) * columns, ((y - origin[1]) / (unit[1] - origin[1])) * rows];
  let [best, least] = [0, 6];
  for (let j = 0, k = 0; j < rows; j += 1)
    for (let i = 0; i < columns; i += 1, k += 1) {
      const far = Math.hypot(i + 0.5 - u, j + 0.5 - v);
      if ((labels[k] as number) > 0 && far < least) [best, least] = [labels[k] as number, far];
    }
  return best;
}

/** The cell of a part that lies farthest from the picture. */
function deepestOf(labels: Int32Array, columns: number, rows: number, label: number, cells: readonly Point[]): Point {
  const free = ([x, y]: Point, reach: number): boolean => {
    for (let j = y - reach; j <= y + reach; j += 1)
      for (let i = x - reach; i <= x + reach; i += 1)
        if (i >= 0 && j >= 0 && i < columns && j < rows && labels[j * columns + i] !== label) return false;
    return true;
  };
  let left = cells;
  for (let reach = 1; reach < 12; reach += 1) {
    const deeper = left.filter((cell) => free(cell, reach));
    if (deeper.length === 0) break;
    left = deeper;
  }
  return left[Math.floor(left.length / 2)] as Point;
}

/** Which corners or sides of the file a part comes to. */
function nameOf(cells: readonly Point[], columns: number, rows: number): string {
  const has = (x: number, y: number): boolean => cells.some(([i, j]) => i === x && j === y);
  const corners = [
    ['top left', has(0, 0)],
    ['top right', has(columns - 1, 0)],
    ['bottom right', has(columns - 1, rows - 1)],
    ['bottom left', has(0, rows - 1)],
  ] as const;
  const there = corners.filter(([, is]) => is).map(([name]) => name);
  if (there.length === 1) return `${there[0] as string} corner`;
  if (there.length === 4) return 'all round';
  if (there.length === 3) return `${there.join(', ')}`;
  if (there.length === 2) {
    const [a, b] = there as [string, string];
    for (const side of ['top', 'bottom', 'left', 'right'])
      if (a.includes(side) && b.includes(side)) return side === 'top' || side === 'bottom' ? side : `${side} side`;
  }
  const touches = [
    ['top', cells.some(([, j]) => j === 0)],
    ['right side', cells.some(([i]) => i === columns - 1)],
    ['bottom', cells.some(([, j]) => j === rows - 1)],
    ['left side', cells.some(([i]) => i === 0)],
  ] as const;
  return (
    touches
      .filter(([, is]) => is)
      .map(([name]) => name)
      .join(' and ') || 'middle'
  );
}
