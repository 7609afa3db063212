import { at, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { turn } from '../turn/turn';
import { crop } from './crop';

const withCrop = () =>
  toolBench({ step: 'crop', document: (c) => ({ ...c, crop: { ...c.crop, rect: { x: -150, y: -100, width: 300, height: 200 } } }) });
const drawn = (bench: ReturnType<typeof withCrop>, from: ReturnType<typeof at>, to: ReturnType<typeof at>) => {
  const gesture = (turn.begin!(bench.context, from) ?? crop.begin!(bench.context, from))!;
  gesture.move(to);
  return gesture;
};

it('moves by its inside, changes by a handle, begins anew outside; a click and a cancelled drag change nothing', () => {
  const bench = withCrop();
  bench.finds.holds = false;
  const before = bench.committed();
  drawn(bench, at(300, 200), at(302, 201)).release(at(302, 201));
  drawn(bench, at(300, 200), at(340, 200)).cancel();
  expect(bench.document()).toBe(before);
  drawn(bench, at(300, 200), at(320, 210)).release(at(320, 210));
  expect(bench.committed().crop.rect).toEqual({ x: -130, y: -90, width: 300, height: 200 });
  expect(crop.hint!(bench.context, at(470, 310))?.[0]).toBe('se-resize');
  drawn(bench, at(470, 210), at(450, 210)).release(at(450, 210));
  expect(bench.committed().crop.rect).toMatchObject({ x: -130, width: 280 });
  drawn(bench, at(20, 20), at(80, 70)).release(at(80, 70));
  expect(bench.committed().crop.rect!.x).toBeCloseTo(-280, 6);
});

it('turns the picture beside a corner, and says by how much; keys move it; nothing of it at another step', () => {
  const bench = withCrop();
  expect(turn.hint!(bench.context, at(480, 330))?.[0]).toBe('alias');
  expect(crop.hint!(bench.context, at(480, 330))).toBeNull();
  const gesture = drawn(bench, at(480, 330), at(470, 345));
  expect(bench.context.tag()?.words).toMatch(/clockwise$/);
  gesture.release(at(470, 345));
  expect(bench.context.tag()).toBeNull();
  expect(bench.committed().stance.adjust.roll).not.toBe(0);
  const { rect } = bench.context.shown()!.correction.crop;
  expect(crop.nudge!(bench.context, [3, 0], 'ArrowRight')).toBe(true);
  expect(bench.committed().crop.rect!.x).toBeCloseTo(rect!.x + 3, 6);
  bench.step.set('stance');
  expect([
    crop.begin!(bench.context, at(300, 200)),
    turn.begin!(bench.context, at(480, 330)),
    crop.nudge!(bench.context, [1, 0], 'x'),
  ]).toEqual([null, null, false]);
});
