import { at, drag, dragHandle, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { ring } from './ring';

it('a ring is laid into a box and selected, moved and shaped by drag and keys, and removed; a click draws none', () => {
  const bench = toolBench({ inHand: 'ring' });
  drag(bench, ring, at(100, 100));
  expect(bench.committed().ease.rings).toEqual([]);
  drag(bench, ring, at(100, 100), at(180, 220));
  const [made] = bench.committed().ease.rings;
  expect([made?.centre, bench.selected(), bench.inHand()]).toEqual([[140, 160], made?.id, null]);
  const gesture = dragHandle(bench, ring, at(140, 160), at(170, 160));
  gesture?.cancel();
  expect(bench.document().ease.rings[0]).toEqual(made);
  dragHandle(bench, ring, at(140, 160), at(170, 160))?.release(at(170, 160));
  expect(bench.committed().ease.rings[0]!.centre[0]).toBeCloseTo(170, 6);
  const held = bench.held()!;
  expect(ring.handles!.nudge!(bench.context, held, [0, 5], 'down')).toBe(true);
  expect(bench.committed().ease.rings[0]!.centre[1]).toBeCloseTo(165, 6);
  expect(ring.handles!.round!(bench.context).handles.length).toBe(3);
  expect(ring.handles!.remove!(bench.context)).toBe(true);
  expect(bench.committed().ease.rings).toEqual([]);
  // it is gone: neither keys nor a late press find it
  expect(ring.handles!.nudge!(bench.context, held, [0, 5], 'down')).toBe(false);
  expect(ring.handles!.drag(bench.context, { id: made!.id, part: 'centre' }, at(140, 160))).toBeNull();
});
