import { at, drag, dragHandle, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { length } from './length';

it('a length lies between the very points that were pointed at, and each end moves by itself', () => {
  const bench = toolBench({ inHand: 'length' });
  bench.finds.edges = [{ a: [100, 150], b: [400, 150], share: 1, sdPx: 0.1, bendPx: 0 } as never];
  drag(bench, length, at(100, 100), at(400, 100));
  expect(bench.committed().measures).toMatchObject([{ a: [100, 100], b: [400, 100] }]);
  const gesture = dragHandle(bench, length, at(400, 100), at(400, 180));
  expect(bench.document().measures[0]!.b[1]).toBeCloseTo(180, 6);
  gesture?.cancel();
  expect(bench.document().measures[0]!.b).toEqual([400, 100]);
  dragHandle(bench, length, at(400, 100), at(400, 180))?.release(at(400, 180));
  expect(bench.committed().measures[0]).toMatchObject({ a: [100, 100] });
  expect(bench.committed().measures[0]!.b[1]).toBeCloseTo(180, 6);
  bench.step.set('crop');
  expect(length.handles!.grips!(bench.context)).toEqual([]);
});
