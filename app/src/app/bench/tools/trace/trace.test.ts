import { at, drag, dragHandle, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { trace } from './trace';

const COURSE = {
  points: [
    [100, 100],
    [300, 104],
    [500, 100],
  ] as const,
  contrast: 0.3,
  bowSdPx: 0.2,
};

async function withTrace() {
  const bench = toolBench({ inHand: 'trace' });
  bench.finds.course = COURSE as never;
  drag(bench, trace, at(100, 100), at(500, 100));
  await bench.settle();
  return bench;
}

it('an edge is followed between the ends of a drag, and selected', async () => {
  const bench = await withTrace();
  expect(bench.committed().lens.edges).toMatchObject([{ points: COURSE.points }]);
  expect([bench.selected(), bench.context.drawing.points()]).toEqual([bench.committed().lens.edges[0]!.id, []]);
});

it('without the magnet it is traced bead by bead; Enter ends it, Escape takes the last bead back, two beads say nothing', async () => {
  const bench = toolBench({ inHand: 'trace' });
  bench.finds.holds = false;
  for (const [x, y] of [
    [100, 100],
    [200, 103],
    [300, 104],
  ] as const)
    drag(bench, trace, at(x, y));
  await bench.settle();
  expect(trace.back!(bench.context)).toBe(true);
  expect(trace.finish!(bench.context)).toBe(true);
  expect(bench.said.at(-1)).toMatch(/^Three beads/);
  expect(bench.committed().lens.edges).toEqual([]);
  for (const [x, y] of [
    [300, 104],
    [500, 100],
  ] as const)
    drag(bench, trace, at(x, y));
  await bench.settle();
  expect(trace.finish!(bench.context)).toBe(true);
  expect(bench.committed().lens.edges[0]!.points.length).toBe(4);
  expect(trace.finish!(bench.context)).toBe(false);
});

it('a bead moves by drag and keys and the edge is removed; the answer to a trace that was taken back is dropped', async () => {
  const bench = await withTrace();
  const id = bench.selected()!;
  dragHandle(bench, trace, at(300, 104), at(300, 110))?.release(at(300, 110));
  expect(bench.committed().lens.edges[0]!.points[1]![1]).toBeCloseTo(110, 0);
  expect(trace.handles!.nudge!(bench.context, { tool: 'trace', id, part: 1 }, [0, 2], 'down')).toBe(true);
  expect(bench.committed().lens.edges[0]!.points[1]![1]).toBeCloseTo(112, 0);
  expect(trace.handles!.remove!(bench.context)).toBe(true);
  expect(bench.committed().lens.edges).toEqual([]);
  drag(bench, trace, at(100, 100), at(500, 100));
  bench.context.drawing.points.set([]);
  await bench.settle();
  expect(bench.committed().lens.edges).toEqual([]);
});
