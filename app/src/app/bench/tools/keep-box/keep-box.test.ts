import { at, drag, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { keepBox } from './keep-box';

it('a keep box is dragged, and the tool laid down; a cancelled one leaves nothing', () => {
  const bench = toolBench({ inHand: 'keep-box' });
  const gesture = keepBox.begin!(bench.context, at(200, 150));
  gesture?.move(at(300, 250));
  expect(bench.context.drawing.box()).toEqual({ x: -100, y: -50, width: 100, height: 100 });
  gesture?.cancel();
  expect([bench.context.drawing.box(), bench.past]).toEqual([null, []]);
  drag(bench, keepBox, at(200, 150), at(300, 250));
  expect([bench.committed().crop.keep.length, bench.inHand(), bench.past.length]).toEqual([1, null, 1]);
});
