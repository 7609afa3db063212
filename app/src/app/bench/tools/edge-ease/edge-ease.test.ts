import { at, dragHandle, toolBench } from '../../../../testing/tool-bench';
import { composeWarp, edgeEasesOnPlane, withEdgeTowards, type Correction } from '@able-plumb/core';
import { expect, it } from 'vitest';
import { edgeEase } from './edge-ease';

const withRightEdge = (c: Correction): Correction => {
  const warp = composeWarp(c, c.picture);
  return withEdgeTowards(c, warp, warp.crop, 'right');
};

it('a boundary moves by drag and keys, settles on an edge beside it, and is removed', async () => {
  const bench = toolBench({ step: 'ease', document: withRightEdge });
  bench.selected.set(bench.committed().ease.edges[0]!.id);
  const place = (): number => {
    const shown = bench.context.shown()!;
    return edgeEasesOnPlane(shown.correction, shown.warp)[0]!.boundary + 300;
  };
  const before = place();
  const gesture = dragHandle(bench, edgeEase, at(before, 200), at(before - 30, 200));
  expect(place()).toBeCloseTo(before - 30, 0);
  gesture?.cancel();
  expect(place()).toBeCloseTo(before, 6);
  bench.finds.edges = [{ a: [before - 40, 150], b: [before - 40, 250], share: 1, sdPx: 0.1, bendPx: 0 } as never];
  dragHandle(bench, edgeEase, at(before, 200), at(before - 30, 200))?.release(at(before - 30, 200));
  await bench.settle();
  expect(place()).toBeCloseTo(before - 40, 0);
  const { id } = bench.committed().ease.edges[0]!;
  expect(edgeEase.handles!.nudge!(bench.context, { tool: 'edge-ease', id, part: null }, [5, 0], 'right')).toBe(true);
  expect(place()).toBeCloseTo(before - 35, 0);
  expect(edgeEase.handles!.remove!(bench.context)).toBe(true);
  expect(bench.committed().ease.edges).toEqual([]);
  expect(edgeEase.handles!.nudge!(bench.context, { tool: 'edge-ease', id, part: null }, [5, 0], 'right')).toBe(false);
});
