import { rectCentre, type Point, type Rect } from '../picture/point';
import type { EaseMap } from '../ease/relief';
import { uneased, type PlaneWarp } from '../warp/plane-warp';

/** The greatest bow that easing gives to lines which would be straight, inside a crop, plane px. */
export interface Bends {
  readonly plumb: number;
  readonly level: number;
  readonly oblique: number;
}

const LINES = 9;
const SAMPLES = 13;

/** What easing bends, by trying lines all over a crop: upright, level, and from every part of its border to every other. Null without easing. */
export function bendsOf(warp: PlaneWarp, crop: Rect): Bends | null {
  const { ease } = warp;
  if (!ease) return null;
  const shares = Array.from({ length: LINES }, (_, i) => i / (LINES - 1));
  const [left, top, right, bottom] = [crop.x, crop.y, crop.x + crop.width, crop.y + crop.height];
  const [cx, cy] = rectCentre(crop);
  const at = (x: number, y: number): Point | null => uneased(warp, [x, y]);
  const bow = (p: Point | null | undefined, q: Point | null | undefined): number => (p && q ? bowOfEased(ease, p, q) : 0);
  const uprights = shares.map((s) => {
    const x = left + crop.width * s;
    const middle = at(x, cy);
    const [p, q] = [at(x, top), at(x, bottom)];
    return middle && p && q ? bow([middle[0], p[1]], [middle[0], q[1]]) : 0;
  });
  const levels = shares.map((s) => {
    const y = top + crop.height * s;
    const middle = at(cx, y);
    const [p, q] = [at(left, y), at(right, y)];
    return middle && p && q ? bow([p[0], middle[1]], [q[0], middle[1]]) : 0;
  });
  const border = shares.flatMap((s): (readonly [Point | null, number])[] => [
    [at(left, top + crop.height * s), 0],
    [at(left + crop.width * s, top), 1],
    [at(right, top + crop.height * s), 2],
    [at(left + crop.width * s, bottom), 3],
  ]);
  const obliques = border.flatMap(([p, side], i) => border.slice(i + 1).map(([q, other]) => (side === other ? 0 : bow(p, q))));
  return { plumb: Math.max(...uprights), level: Math.max(...levels), oblique: Math.max(...levels, ...obliques) };
}

/** Greatest distance from its chord of what was straight between two points of the flat plane, px. */
function bowOfEased({ forward }: EaseMap, p: Point, q: Point): number {
  const out = new Float64Array(2);
  if (!forward(p[0], p[1], out)) return 0;
  const [ax, ay] = [out[0] as number, out[1] as number];
  if (!forward(q[0], q[1], out)) return 0;
  const [dx, dy] = [(out[0] as number) - ax, (out[1] as number) - ay];
  const length = Math.hypot(dx, dy);
  if (length < 1) return 0;
  let most = 0;
  for (let i = 1; i + 1 < SAMPLES; i += 1) {
    const t = i / (SAMPLES - 1);
    if (!forward(p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t, out)) continue;
    most = Math.max(most, Math.abs(((out[0] as number) - ax) * dy - ((out[1] as number) - ay) * dx) / length);
  }
  return most;
}

/** Bows below this are not seen, px. */
const STRAIGHT_PX = 0.5;

/** "Plumb lines stay straight. Levels bend up to 12 px, obliques up to 18 px." */
export function bendsInWords({ plumb, level, oblique }: Bends): string {
  const lines = [
    ['plumb lines', plumb],
    ['levels', level],
    ['obliques', oblique],
  ] as const;
  const straight = lines.filter(([, px]) => px < STRAIGHT_PX).map(([name]) => name);
  const bent = lines.filter(([, px]) => px >= STRAIGHT_PX).map(([name, px]) => `${name} bend up to ${px.toFixed(0)} px`);
  const sentence = (words: string): string => (words === '' ? '' : `${words[0]?.toUpperCase() ?? ''}${words.slice(1)}.`);
  return [sentence(straight.length > 0 ? `${straight.join(' and ')} stay straight` : ''), sentence(bent.join(', '))].join(' ').trim();
}
