import type { Raster } from '@able-plumb/core';
import { Luck } from '../places/luck';
import type { Heap, HeapPrint } from './compose-heap';

/** Lids: black, dark grey, grey, light grey, white; some yellowed. */
const LIDS = [
  [16, 16, 17],
  [52, 53, 55],
  [128, 128, 127],
  [212, 212, 209],
  [247, 247, 245],
  [238, 235, 226],
] as const;

/** Sizes of prints, mm (ISO 1008 names most of them). */
const SIZES = [
  [65, 90],
  [89, 127],
  [102, 152],
  [60, 60],
  [54, 86],
  [45, 60],
] as const;

const GAP_MM = 3;

/** What a heap is made of. */
export interface HeapWishes {
  readonly seed: number;
  readonly pictures: readonly Raster[];
  readonly ppi: number;
  /** Size of the bed, mm; DIN A4 where it is missing. */
  readonly bedMm?: readonly [number, number];
  readonly count?: number;
}

/** Two to twelve prints as they come to lie, at least 3 mm apart, turned by up to 25 degrees, under any lid; from a seed. */
export function randomHeap({ seed, pictures, ppi, bedMm = [297, 210], count }: HeapWishes): Heap {
  const luck = new Luck(seed);
  const lid = LIDS[luck.whole(0, LIDS.length - 1)] as (typeof LIDS)[number];
  const wanted = count ?? luck.whole(2, 12);
  const bright = lid[0] > 200;
  // under a bright lid paper without any border or shadow is not to be seen by anybody
  const printShadow = bright ? luck.between(0.15, 0.5) : luck.between(0, 0.4);
  const prints: HeapPrint[] = [];
  for (let n = 0; prints.length < wanted && n < 4000; n += 1) {
    const print = onePrint(luck, pictures, bedMm, wanted);
    if (fits(print, prints, bedMm)) prints.push(print);
  }
  return {
    widthMm: bedMm[0],
    heightMm: bedMm[1],
    ppi,
    lid,
    grain: luck.between(0, lid[0] < 60 ? 3 : 1.2),
    noise: luck.between(0.6, 2.5),
    falloff: luck.between(0, 0.08),
    sideShadow: luck.chance(0.4) ? luck.between(0.05, 0.35) : 0,
    printShadow,
    dust: luck.whole(0, 160),
    seed,
    prints,
  };
}

function onePrint(luck: Luck, pictures: readonly Raster[], [bedW, bedH]: readonly [number, number], wanted: number): HeapPrint {
  const picture = pictures[luck.whole(0, pictures.length - 1)] as Raster;
  const [short, long] = SIZES[luck.whole(wanted > 6 ? 3 : 0, SIZES.length - 1)] as (typeof SIZES)[number];
  const lies = luck.chance(0.5);
  const bordered = luck.chance(0.6);
  const paper = luck.between(222, 248);
  return {
    picture,
    centreMm: [luck.between(10, bedW - 10), luck.between(10, bedH - 10)],
    widthMm: lies ? long : short,
    heightMm: lies ? short : long,
    angleDeg: luck.between(-25, 25) * (luck.chance(0.6) ? 0.2 : 1),
    borderMm: bordered ? luck.between(2.5, 6) : 0,
    paper: [paper, paper - luck.between(0, 4), paper - luck.between(3, 18)],
    ...(luck.chance(0.15) ? { roundMm: luck.between(1, 4) } : {}),
    ...(luck.chance(0.1) ? { tornMm: luck.between(3, 10) } : {}),
    ...(luck.chance(0.1) ? { roughMm: luck.between(0.03, 0.1) } : {}),
  };
}

/** Whether a print lies on the bed, at least {@link GAP_MM} from its border and from the others. */
function fits(print: HeapPrint, others: readonly HeapPrint[], [bedW, bedH]: readonly [number, number]): boolean {
  const corners = cornersMm(print, 0);
  if (!corners.every(([x, y]) => x > GAP_MM && y > GAP_MM && x < bedW - GAP_MM && y < bedH - GAP_MM)) return false;
  return others.every((other) => apart(cornersMm(print, GAP_MM / 2), cornersMm(other, GAP_MM / 2)));
}

/** The corners of a print that is larger by a margin all round, mm. */
function cornersMm({ centreMm, widthMm, heightMm, angleDeg }: HeapPrint, margin: number): (readonly [number, number])[] {
  const [c, s] = [Math.cos((angleDeg * Math.PI) / 180), Math.sin((angleDeg * Math.PI) / 180)];
  const [w, h] = [widthMm / 2 + margin, heightMm / 2 + margin];
  return [
    [-w, -h],
    [w, -h],
    [w, h],
    [-w, h],
  ].map(([x, y]) => [centreMm[0] + c * (x as number) + s * (y as number), centreMm[1] - s * (x as number) + c * (y as number)] as const);
}

/** Whether a line along a side of one of two rectangles parts them. Source: the separating axis theorem. */
function apart(a: readonly (readonly [number, number])[], b: readonly (readonly [number, number])[]): boolean {
  return [a, b].some((box) =>
    [0, 1].some((i) => {
      const [p, q] = [box[i], box[i + 1]] as [readonly [number, number], readonly [number, number]];
      const way = [q[0] - p[0], q[1] - p[1]] as const;
      const on = (of: typeof a): number[] => of.map(([x, y]) => x * way[0] + y * way[1]);
      const [u, v] = [on(a), on(b)];
      return Math.max(...u) < Math.min(...v) || Math.max(...v) < Math.min(...u);
    }),
  );
}
