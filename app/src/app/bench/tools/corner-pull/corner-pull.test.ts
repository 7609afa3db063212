import { at, dragHandle, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { cornerPull } from './corner-pull';

it('a corner is pulled while the tool is in the hand; what goes too far is said and stays at the last place that works', () => {
  const bench = toolBench({ inHand: 'corner-pull' });
  const before = bench.committed();
  const gesture = dragHandle(bench, cornerPull, at(0, 0), at(20, 0));
  expect(bench.document()).not.toEqual(before);
  gesture?.cancel();
  expect(bench.document()).toBe(before);
  const pulled = dragHandle(bench, cornerPull, at(0, 0), at(20, 0), at(1200, 900));
  pulled?.release(at(1200, 900));
  expect(bench.said.at(-1)).toMatch(/^\S.*\.$/);
  expect(bench.past.length).toBe(1);
  bench.inHand.set(null);
  expect(cornerPull.handles!.grips!(bench.context)).toEqual([]);
});
