import { at, drag, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { sides } from './sides';

it('a panel is made of a line along each of four sides; the ones before the fourth are taken back by Escape', async () => {
  const bench = toolBench({ inHand: 'sides' });
  const draw = (...ends: readonly [number, number, number, number][]): void =>
    ends.forEach(([x, y, u, v]) => drag(bench, sides, at(x, y), at(u, v)));
  draw([120, 100, 480, 100]);
  expect([sides.back!(bench.context), sides.back!(bench.context)]).toEqual([true, false]);
  draw([120, 100, 480, 100], [500, 120, 500, 280], [120, 300, 480, 300]);
  expect([bench.committed().panels.length, sides.hint!(bench.context, at(0, 0))?.[1]]).toEqual([0, 'The last side.']);
  draw([100, 120, 100, 280]);
  await bench.settle();
  expect(bench.committed().panels[0]?.edges?.[0]).toEqual([
    [120, 100],
    [480, 100],
  ]);
  expect(bench.inHand()).toBeNull();
});
