import { describe, expect, it } from 'vitest';
import {
  changeInWords,
  copiedTo,
  correctionSchema,
  delivered,
  deliveryRect,
  fileName,
  freeName,
  resolveCrop,
  planeWarp,
  readDeliveries,
  writeDeliveries,
  safeName,
  takenFromDelivery,
  unknownWord,
  withCropRect,
  withDelivery,
  withQuarterTurn,
  withRollAdjust,
  type Correction,
  type Delivery,
} from '../index';

const picture = { name: 'tower.jpg', width: 3000, height: 2000 };
const correction: Correction = correctionSchema.parse({ format: 'able-plumb/correction', version: 1, picture, camera: { focalPx: 2400 } });
const delivery = (id: string, ratio: Delivery['ratio']): Delivery => ({
  id,
  name: id,
  ratio,
  size: { kind: 'long-edge', px: 1200 },
  filter: 'mitchell',
  light: 'encoded',
  background: '#ffffff',
  colour: 'srgb',
  sharpen: 'screen',
  format: { kind: 'jpeg', quality: 90, chroma: '4:4:4' },
  kept: 'no-position',
  pattern: '{name}-{delivery}',
});

describe('deliveries of other pictures', () => {
  it('are copied whatever their proportions; a crop set by hand only where it fits', () => {
    const rect = { x: -300, y: -200, width: 600, height: 400 };
    const from = { ...correction, deliveries: [{ id: 'web', rect }, { id: 'print' }] };
    const of = (width: number, height: number): Correction => ({ ...correction, picture: { ...picture, width, height } });
    expect(copiedTo(of(1500, 1000), from, ['deliveries']).deliveries).toEqual([
      { id: 'web', rect: { x: -150, y: -100, width: 300, height: 200 } },
      { id: 'print' },
    ]);
    expect(copiedTo(of(1000, 1000), from, ['deliveries']).deliveries).toEqual([{ id: 'web' }, { id: 'print' }]);
    expect(() => copiedTo(of(1000, 1000), from, ['deliveries', 'stance'])).toThrow(/proportions/);
  });

  it('go through a file, and one that is none is refused with the place', () => {
    const set = [delivery('web', 'crop'), delivery('print', 1.5)];
    expect(readDeliveries(writeDeliveries(set))).toEqual(set);
    expect(() => readDeliveries('{}')).toThrow(/not a set of deliveries: format is wrong.*stay as they are/);
    expect(() => readDeliveries(writeDeliveries(set).replace('"mitchell"', '"best"'))).toThrow(/deliveries\.0\.filter is wrong/);
    expect(() => readDeliveries('nothing')).toThrow(/not a set of deliveries/);
  });
});

describe('what undo would take back', () => {
  it('is said in a few words: what was drawn, moved, removed or set', () => {
    const line = {
      id: 'r1',
      kind: 'plumb',
      a: [10, 10],
      b: [20, 900],
      statedAngle: 0,
      used: true,
    } as unknown as Correction['references'][number];
    const drawn = { ...correction, references: [line] };
    const cases: readonly (readonly [Correction, Correction, string])[] = [
      [correction, drawn, 'line drawn'],
      [drawn, correction, 'line removed'],
      [
        drawn,
        { ...drawn, references: [{ ...line, b: [21, 900] as [number, number] }], stance: { ...drawn.stance, roll: 1 } },
        'line moved',
      ],
      [drawn, { ...drawn, references: [{ ...line, kind: 'level' }] }, 'line made level'],
      [drawn, { ...drawn, references: [{ ...line, used: false }] }, 'line set aside'],
      [correction, withRollAdjust(correction, 2), 'roll'],
      [correction, withQuarterTurn(correction, 1), 'quarter turn'],
      [correction, withCropRect(correction, { x: 0, y: 0, width: 10, height: 10 }), 'crop'],
      [correction, withDelivery(correction, 'web', true), 'delivery chosen'],
      [correction, correction, ''],
    ];
    for (const [before, after, words] of cases) expect(changeInWords(before, after)).toBe(words);
  });
});

describe('deliveries', () => {
  it('crop to their proportions inside the picture’s crop, tall where that is tall, and write their own size and filter', () => {
    const square = delivered(correction, delivery('square', 1));
    const near = (value: number): unknown => expect.closeTo(value, 5);
    expect(square.crop.rect).toEqual({ x: near(-1000), y: near(-1000), width: near(2000), height: near(2000) });
    expect(square.output).toEqual({
      size: { kind: 'long-edge', px: 1200 },
      filter: 'mitchell',
      light: 'encoded',
      background: '#ffffff',
      colour: 'srgb',
      sharpen: 'screen',
    });
    const wide = deliveryRect(correction, delivery('wide', 2));
    expect([wide.width, wide.height]).toEqual([near(3000), near(1500)]);
    const tall = deliveryRect(withQuarterTurn(correction, 1), delivery('wide', 2));
    expect([tall.width, tall.height]).toEqual([near(1500), near(3000)]);
    expect(delivered(correction, delivery('own', 'crop')).crop).toBe(correction.crop);
  });

  it('keep what is set for them by hand; the picture’s own crop stays, and new keep boxes are the picture’s', () => {
    const d = delivery('square', 1);
    const chosen = withDelivery(correction, 'square', true);
    const rect = { x: -1400, y: -900, width: 1800, height: 1800 };
    const keep = [{ id: 'k1', x: 10, y: 10, width: 50, height: 50 }];
    const view = delivered(chosen, d);
    const after = takenFromDelivery({ ...withCropRect(view, rect), crop: { ...view.crop, rect, keep } }, chosen, 'square');
    expect(after.deliveries).toEqual([{ id: 'square', rect }]);
    expect(after.crop).toEqual({ ...correction.crop, keep });
    expect(after.output).toEqual(correction.output);
    expect(delivered(after, d).crop.rect).toEqual(rect);
    // the picture turned under the crop: all crops stay over the same part of it, and none is set by that
    const turned = takenFromDelivery(withRollAdjust(delivered(after, d), 5), after, 'square');
    const moved = turned.deliveries[0]!.rect!;
    expect([moved.width, moved.height]).toEqual([1800, 1800]);
    expect(moved.x).not.toBeCloseTo(rect.x, 0);
    expect(takenFromDelivery(withRollAdjust(view, 5), chosen, 'square').deliveries).toEqual([{ id: 'square' }]);
    expect(withDelivery(after, 'square', false).deliveries).toEqual([]);
    expect(resolveCrop(turned, planeWarp(turned, picture)).width).toBeGreaterThan(2000);
  });
});

describe('file names', () => {
  const parts = { name: 'tower', number: 7, job: 'Tarnbeck', delivery: 'web', width: 1200, height: 800, takenAt: '2026:04:14 10:41:50' };

  it('are made of words in braces, without what file systems refuse, and never twice the same', () => {
    expect(fileName('{job} {number} {name}-{delivery} {width}x{height} {date}', parts)).toBe('Tarnbeck 007 tower-web 1200x800 2026-04-14');
    expect(fileName('{name}', { ...parts, name: '../a:b?c', takenAt: null })).toBe('-a-b-c');
    expect(fileName('{date}', { ...parts, takenAt: null })).toBe('undated');
    expect(fileName('...', parts)).toBe('picture');
    expect(safeName('  واجهة البرج.  ')).toBe('واجهة البرج');
    expect([...safeName('x'.repeat(500))].length).toBe(80);
    expect([unknownWord('{name}-{nam}'), unknownWord('{name}'), unknownWord('plain')]).toEqual(['nam', null, null]);
    const taken = new Set<string>();
    expect(['A', 'a', 'a'].map((stem) => freeName(stem, 'jpg', taken))).toEqual(['A.jpg', 'a-2.jpg', 'a-3.jpg']);
  });

  it('reshape what was set by hand when their proportions change, instead of stretching it', () => {
    const rect = { x: -600, y: -300, width: 1200, height: 600 };
    const set: Correction = { ...correction, deliveries: [{ id: 'banner', rect }] };
    expect(deliveryRect(set, delivery('banner', 2))).toEqual(rect);
    const changed = deliveryRect(set, delivery('banner', 1.5));
    expect(changed.width / changed.height).toBeCloseTo(1.5, 9);
    expect([changed.x + changed.width / 2, changed.y + changed.height / 2, changed.width * changed.height]).toEqual([
      expect.closeTo(0, 9),
      expect.closeTo(0, 9),
      expect.closeTo(720000, 3),
    ]);
    expect(deliveryRect(set, delivery('banner', 'crop'))).toEqual(rect);
  });

  it('are not copied with a crop around a panel to a picture without one: it could not be exported', () => {
    const panelled: Correction = { ...correction, crop: { ...correction.crop, around: 'panel' } };
    expect(() => copiedTo(correction, panelled, ['crop'])).toThrow(/has no panel to crop to/);
  });
});
