import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  correctionSchema,
  emptyParts,
  fillEmpty,
  filledShare,
  fillRendered,
  newCorrection,
  withPartLeft,
  withQuarterTurn,
  type Correction,
  type CorrectionInput,
  type Point,
  type Raster,
} from '../index';
import { dice } from '../linear/dice';
import { complete } from './complete';
import { plainSearch } from './search';
import { search } from './search-fast';

const size = { width: 240, height: 180 };
type FillInput = NonNullable<NonNullable<CorrectionInput['crop']>['fill']>;
const asked = (fill: FillInput = {}, of: { width: number; height: number } = size): Correction =>
  correctionSchema.parse({ ...newCorrection({ name: 'x', ...of, focal35: 28 }), crop: { edges: 'fill', around: 'frame', fill } });

/** A result drawn from a function, empty where it is hidden. */
function drawn(
  at: (x: number, y: number) => readonly number[],
  hidden: (x: number, y: number) => boolean,
  of: { width: number; height: number } = size,
  bits: 8 | 16 = 8,
): Raster {
  const { width, height } = of;
  const data = bits === 8 ? new Uint8Array(width * height * 4) : new Uint16Array(width * height * 4);
  const most = bits === 8 ? 255 : 65535;
  for (let y = 0, k = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1, k += 4)
      if (!hidden(x + 0.5, y + 0.5)) data.set([...at(x + 0.5, y + 0.5).map((v) => Math.round((v * most) / 255)), most], k);
  return { width, height, channels: 4, data };
}
const corner =
  (px: number) =>
  (x: number, y: number): boolean =>
    x + y < px;
/** Grain over slow waves, the same for the same seed. */
function texture(seed: number): (x: number, y: number) => readonly number[] {
  const { uniform } = dice(seed);
  const grain = Array.from({ length: 97 * 89 }, () => uniform() * 36);
  return (x, y) => {
    const g = grain[(Math.floor(x) % 97) + 97 * (Math.floor(y) % 89)] as number;
    return [110 + 30 * Math.sin(x / 9) + g, 120 + 20 * Math.cos(y / 11) + g, 90 + g];
  };
}
const filledOf = (raster: Raster, correction: Correction) => {
  const copy: Raster = { ...raster, data: raster.data.slice() };
  const of = { width: raster.width, height: raster.height };
  return { copy, ...fillEmpty(copy, correction, composeWarp(correction, of), false) };
};

describe('filling', () => {
  it('changes no pixel of the picture, fills every empty one, and gives the same every time, another with another seed', () => {
    const raster = drawn(texture(1), corner(70));
    const [a, b, other] = [filledOf(raster, asked()), filledOf(raster, asked()), filledOf(raster, asked({ seed: 2 }))];
    expect(a.copy.data).toEqual(b.copy.data);
    expect(a.copy.data).not.toEqual(other.copy.data);
    let [changed, empty, hidden] = [0, 0, 0];
    for (let k = 0; k < raster.data.length; k += 4) {
      if (raster.data[k + 3] === 0) hidden += 1;
      else if ([0, 1, 2, 3].some((c) => raster.data[k + c] !== a.copy.data[k + c])) changed += 1;
      if (a.copy.data[k + 3] !== 255) empty += 1;
    }
    expect([changed, empty]).toEqual([0, 0]);
    expect(a.share).toBeCloseTo(hidden / (size.width * size.height), 12);
    expect(a.mask.reduce((sum, m) => sum + m, 0)).toBe(hidden);
  });

  it('by WebAssembly is to the bit what the plain steps give, mirrored patches and all', () => {
    const at = texture(3);
    for (const seed of [1, 5, 99]) {
      const grounds = [0, 1].map(() => {
        const pixels = new Uint8Array(120 * 90 * 4);
        const hole = new Uint8Array(120 * 90);
        for (let k = 0; k < hole.length; k += 1) {
          const [x, y] = [k % 120, Math.floor(k / 120)];
          if (x + y < 40 || 120 - x + y < 25) hole[k] = 1;
          else pixels.set([...at(x, y), 0], 4 * k);
        }
        return { width: 120, height: 90, pixels, hole, allowed: hole.map((h) => 1 - h) };
      });
      const [fast, plain] = [complete(grounds[0]!, seed, search)!, complete(grounds[1]!, seed, plainSearch)!];
      expect(fast.level.field).toEqual(plain.level.field);
      expect(fast.level.pixels).toEqual(plain.level.pixels);
      expect(fast.correction).toEqual(plain.correction);
      expect(fast.level.field.some((m) => (m & 1) === 1)).toBe(true);
    }
  });

  it('goes on with a sky that grows lighter without a seam above its noise, and keeps its grain', () => {
    const { normal } = dice(8);
    const of = { width: 640, height: 480 };
    const sky = (x: number, y: number): number[] => {
      const light = 120 + 70 * (y / of.height) + 25 * (x / of.width) + 3 * normal();
      return [light * 0.8, light * 0.9, light];
    };
    const { copy } = filledOf(drawn(sky, corner(160), of), asked({}, of));
    // means of squares on both sides of the border, against the mean of the sky there
    const offs: number[] = [];
    for (let x = 8; x < 150; x += 8) {
      const [mean, count] = [
        [0, 0],
        [0, 0],
      ];
      for (let j = -8; j < 8; j += 1)
        for (let i = -8; i < 8; i += 1) {
          const [px, py] = [x + i, 158 - x + j];
          if (px < 0 || py < 0) continue;
          const light = copy.data[(py * of.width + px) * 4 + 2]! - (120 + 70 * (py / of.height) + 25 * (px / of.width));
          const side = px + py + 1 < 160 ? 0 : 1;
          mean[side]! += light;
          count[side]! += 1;
        }
      offs.push(mean[0]! / count[0]! - mean[1]! / count[1]!);
    }
    expect(Math.max(...offs.map(Math.abs))).toBeLessThan(3);
    // grain: its deviation from pixel to pixel is the picture's own
    const rough = (inside: (x: number, y: number) => boolean): number => {
      let [sum, n] = [0, 0];
      for (let y = 0; y < 240; y += 1)
        for (let x = 0; x + 1 < 240; x += 1)
          if (inside(x, y) && inside(x + 1, y)) {
            sum += (copy.data[(y * of.width + x) * 4 + 2]! - copy.data[(y * of.width + x + 1) * 4 + 2]!) ** 2;
            n += 1;
          }
      return Math.sqrt(sum / n);
    };
    const [made, own] = [rough((x, y) => x + y < 150), rough((x, y) => x + y > 170)];
    expect(made / own).toBeGreaterThan(0.8);
    expect(made / own).toBeLessThan(1.25);
  });

  it('never copies what it must not, nor from elsewhere than it may: counted', () => {
    // what must not be copied is the only thing with red in it
    const grained = texture(4);
    const marked = (x: number, y: number): readonly number[] => {
      const [, g, b] = grained(x, y) as [number, number, number];
      return [x > 120 ? 250 : 4, g, b];
    };
    const raster = drawn(marked, corner(70));
    const reds = ({ copy, mask }: ReturnType<typeof filledOf>): number =>
      mask.reduce((n, m, k) => n + (m === 1 && copy.data[4 * k]! > 60 ? 1 : 0), 0);
    const box: [number, number][] = [
      [119, -1],
      [241, 181],
    ];
    const stroke = {
      id: 's',
      kind: 'only' as const,
      points: [
        [60, 60],
        [60, 170],
      ] as [number, number][],
      widthPx: 80,
    };
    const polygon: [number, number][] = [
      [118, -2],
      [242, -2],
      [242, 182],
      [118, 182],
    ];
    for (const areas of [[{ id: 'n', kind: 'not' as const, points: box }], [{ id: 'n', kind: 'not' as const, points: polygon }], [stroke]])
      for (const seed of [1, 2, 3]) expect(reds(filledOf(raster, asked({ areas, seed })))).toBe(0);
    expect(reds(filledOf(raster, asked({ areas: [{ id: 'o', kind: 'only', points: box }] })))).toBeGreaterThan(1000);
  });

  it('goes straight on along lines, within 1 px and 0.3 degrees, at any slope', () => {
    const of = { width: 900, height: 640 };
    for (const deg of [0, 1.3, -4.7, 12, -31, 63]) {
      const [c, s] = [Math.cos((deg * Math.PI) / 180), Math.sin((deg * Math.PI) / 180)];
      // signed distance from a line through a point near the border
      const far = (x: number, y: number): number => (y - 330) * c - (x - 780) * s;
      const edge = (x: number, y: number): number[] => {
        const t = Math.min(1, Math.max(0, far(x, y) + 0.5));
        return [200 - 120 * t, 190 - 90 * t, 180 - 120 * t];
      };
      const hidden = (x: number): boolean => x > 800;
      const line = { id: 'l', a: [780 - 260 * c, 330 - 260 * s] as [number, number], b: [780, 330] as [number, number] };
      const { copy } = filledOf(drawn(edge, hidden, of), asked({ lines: [line] }, of));
      const found: Point[] = [];
      for (let t = 30 / Math.abs(c); t < 110; t += 4) {
        const [x, y] = [780 + t * c, 330 + t * s];
        if (x < 806 || x > 894 || y < 8 || y > 632) continue;
        // where the tone is half way, going square to the line
        for (let n = -5; n < 5; n += 0.1) {
          const tone = (off: number): number => at(copy, x - off * s, y + off * c);
          if ((tone(n) - 140) * (tone(n + 0.1) - 140) <= 0 && tone(n) !== tone(n + 0.1)) {
            found.push([t, n + 0.05]);
            break;
          }
        }
      }
      expect(found.length, `${deg}`).toBeGreaterThan(4);
      expect(Math.max(...found.map((p) => Math.abs(p[1]))), `${deg}`).toBeLessThan(1);
      // the slope of the line through all of them
      const mean = (k: 0 | 1): number => found.reduce((sum, p) => sum + p[k], 0) / found.length;
      const [mt, mn] = [mean(0), mean(1)];
      const slope = found.reduce((sum, [t, n]) => sum + (t - mt) * (n - mn), 0) / found.reduce((sum, [t]) => sum + (t - mt) ** 2, 0);
      expect((Math.abs(Math.atan(slope)) * 180) / Math.PI, `${deg}`).toBeLessThan(0.3);
    }
  });

  it('tells the empty parts apart, leaves those that are to stay empty, also after a quarter turn', () => {
    const of = { width: 600, height: 400 };
    const turned = correctionSchema.parse({ ...asked({}, of), stance: { roll: 4 } });
    const warp = composeWarp(turned, of);
    const parts = emptyParts(turned, warp);
    expect(parts.map(({ name }) => name).sort()).toEqual([
      'bottom left corner',
      'bottom right corner',
      'top left corner',
      'top right corner',
    ]);
    const whole = filledShare(turned, warp);
    expect(whole).toBeCloseTo(
      parts.reduce((sum, p) => sum + p.share, 0),
      2,
    );
    const part = parts.find(({ name }) => name === 'top left corner')!;
    const left = withPartLeft(turned, warp, part.at, true);
    expect(filledShare(left, composeWarp(left, of))).toBeCloseTo(whole - part.share, 3);
    expect(withPartLeft(left, composeWarp(left, of), part.at, false).crop.fill.leave).toEqual([]);
    const sideways = withQuarterTurn(left, 1);
    expect(
      emptyParts(sideways, composeWarp(sideways, of))
        .filter((p) => p.left)
        .map(({ name }) => name),
    ).toEqual(['top right corner']);
    // in the file: that part is empty, all others are not
    const raster = drawn(texture(6), (x, y) => x + y < 60 || of.width - x + of.height - y < 50, of);
    const plain = asked({ leave: [[-299, -199]] }, of);
    const cornered = {
      ...composeWarp(plain, of),
      outline: composeWarp(plain, of).outline.flatMap(([x, y]): Point[] =>
        x < 0 && y < 0
          ? [
              [-240, -200],
              [-300, -140],
            ]
          : x > 0 && y > 0
            ? [
                [300, 150],
                [250, 200],
              ]
            : [[x, y]],
      ),
    };
    const { mask, leftEmpty } = fillEmpty(raster, plain, cornered, false);
    expect(leftEmpty).toBe(true);
    expect([raster.data[3], mask[0]]).toEqual([0, 0]);
    expect(mask.at(-1)).toBe(1);
  });

  it('of 16 bits, grey and pictures with clear pixels of their own fills what is an empty edge and nothing else', () => {
    const wide = filledOf(drawn(texture(9), corner(50), size, 16), asked());
    expect(Math.max(...wide.copy.data.filter((_, k) => k % 4 !== 3 && wide.mask[k >> 2] === 1))).toBeGreaterThan(20000);
    const four = drawn(texture(9), corner(50));
    const two: Raster = { ...four, channels: 2, data: four.data.filter((_, k) => k % 4 === 0 || k % 4 === 3) };
    const grey = filledOf(two, asked());
    expect(grey.copy.data[1]).toBe(255);
    // a clear hole in the middle of the picture stays what it is
    const holed = drawn(texture(9), (x, y) => Math.hypot(x - 120, y - 90) < 12);
    const correction = asked();
    const warp = composeWarp(correction, size);
    expect(fillEmpty(holed, correction, warp, true).share).toBe(0);
    // beside it a corner is filled, and nothing of what is clear is copied: it would be black
    const both = drawn(texture(9), (x, y) => corner(50)(x, y) || Math.hypot(x - 60, y - 60) < 20);
    const beside = { ...warp, outputToPicture: (x: number, y: number, out: Float64Array) => (out.set([x + y < 50 ? -9 : x, y]), true) };
    const { mask, share: part } = fillEmpty(both, correction, beside, true);
    expect(part).toBeCloseTo(1250 / (size.width * size.height), 2);
    const filled = [...mask.keys()].filter((k) => mask[k] === 1);
    expect(Math.min(...filled.map((k) => both.data[4 * k]!))).toBeGreaterThan(40);
    expect(Math.min(...filled.map((k) => both.data[4 * k + 3]!))).toBe(255);
    expect(both.data[(60 * size.width + 60) * 4 + 3]).toBe(0);
    const { raster, share } = fillRendered(
      drawn(texture(9), corner(50)),
      correction,
      warp,
      { ...size, channels: 3, data: new Uint8Array(3) },
      true,
    );
    expect([raster.channels, share > 0.02]).toEqual([3, true]);
  });

  it('refuses in a sentence what cannot be filled', () => {
    const most = drawn(texture(1), (x) => x > 100);
    expect(() => filledOf(most, asked())).toThrow(/more than there is to copy from/);
    const all: FillInput = {
      areas: [
        {
          id: 'n',
          kind: 'not',
          points: [
            [-9, -9],
            [999, 999],
          ],
        },
      ],
    };
    expect(() => filledOf(drawn(texture(1), corner(40)), asked(all))).toThrow(/nothing left to copy from/);
    const tiny = { width: 3, height: 2 };
    expect(() =>
      filledOf(
        drawn(texture(1), (x) => x < 1, tiny),
        asked({}, tiny),
      ),
    ).toThrow(/nothing left to copy from/);
    const scaled = { ...asked(), output: { ...asked().output, size: { kind: 'scale' as const, oneTo: 50, ppi: 300 } } };
    expect(() => composeWarp(scaled, size)).toThrow(/what is filled has no size/);
  });
});

/** Red between pixels. */
function at({ width, data }: Raster, x: number, y: number): number {
  const [u, v] = [x - 0.5, y - 0.5];
  const [i, j] = [Math.floor(u), Math.floor(v)];
  const p = (a: number, b: number): number => data[(b * width + a) * 4] as number;
  return (p(i, j) * (1 - u + i) + p(i + 1, j) * (u - i)) * (1 - v + j) + (p(i, j + 1) * (1 - u + i) + p(i + 1, j + 1) * (u - i)) * (v - j);
}
