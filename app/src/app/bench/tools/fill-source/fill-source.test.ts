import { at, drag, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { goStraightOn } from '../go-straight-on/go-straight-on';
import { fillNot, fillOnly } from './fill-source';

it('areas are dragged as boxes or painted, lines go straight on; each is one step', async () => {
  const bench = toolBench({ inHand: 'fill-not', document: (c) => ({ ...c, crop: { ...c.crop, edges: 'fill' } }) });
  drag(bench, fillNot, at(100, 100), at(200, 200));
  bench.context.drawing.brush.set(true);
  const stroke = fillOnly.begin!(bench.context, at(300, 100));
  stroke?.move(at(340, 120));
  stroke?.cancel();
  expect(bench.context.drawing.stroke()).toEqual([]);
  drag(bench, fillOnly, at(300, 100), at(320, 110), at(340, 120));
  expect(bench.committed().crop.fill.areas.map(({ kind, widthPx }) => [kind, widthPx === undefined])).toEqual([
    ['not', true],
    ['only', false],
  ]);
  bench.inHand.set('go-straight-on');
  drag(bench, goStraightOn, at(100, 300), at(100, 40));
  await bench.settle();
  expect(bench.committed().crop.fill.lines).toMatchObject([{ a: [100, 300], b: [100, 40] }]);
  expect([bench.inHand(), bench.past.length]).toEqual([null, 3]);
});
