import { at, dragHandle, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { guide } from './guide';

it('a guide comes out of a ruler, is moved, and goes when it is let go outside the stage', () => {
  const bench = toolBench();
  const slip = guide.fromRuler!(bench.context, 'x');
  slip?.release(at(0, 0));
  expect(bench.past).toEqual([]);
  const drawn = guide.fromRuler!(bench.context, 'x');
  drawn?.move(at(200, 100));
  drawn?.release(at(200, 100));
  expect(bench.committed().guides).toMatchObject([{ axis: 'x', at: -100 }]);
  dragHandle(bench, guide, at(202, 300), at(250, 300))?.cancel();
  dragHandle(bench, guide, at(202, 300), at(260, 300))?.release(at(260, 300));
  expect(bench.committed().guides).toMatchObject([{ axis: 'x', at: -40 }]);
  dragHandle(bench, guide, at(260, 300), at(-20, 300))?.release(at(-20, 300));
  expect(bench.committed().guides).toEqual([]);
});
