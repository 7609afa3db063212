import { at, dragHandle, toolBench } from '../../../../testing/tool-bench';
import { withNewPanel, withTrim } from '@able-plumb/core';
import { expect, it } from 'vitest';
import { margin } from './margin';

it('a margin of the panel that the crop goes round is dragged by its side; cancelled, it is as it was', () => {
  const bench = toolBench({
    step: 'references',
    document: (c) =>
      withTrim(
        withNewPanel(c, {
          corners: [
            [150, 100],
            [450, 100],
            [450, 300],
            [150, 300],
          ],
          placedPx: 1,
        }),
        { around: 'panel' },
      ),
  });
  const grip = margin.handles!.grips!(bench.context).find(({ part }) => part === 'right')!;
  const before = bench.committed().panels[0]!.margins;
  const gesture = dragHandle(bench, margin, at(...grip.at), at(grip.at[0] + 30, grip.at[1]));
  expect(bench.document().panels[0]!.margins.right).not.toEqual(before.right);
  gesture?.cancel();
  expect(bench.document().panels[0]!.margins).toEqual(before);
  dragHandle(bench, margin, at(...grip.at), at(grip.at[0] + 30, grip.at[1]))?.release(at(grip.at[0] + 30, grip.at[1]));
  expect(bench.committed().panels[0]!.margins.right).not.toEqual(before.right);
  expect(bench.committed().panels[0]!.margins).toMatchObject({ left: before.left, top: before.top, bottom: before.bottom });
  bench.step.set('stance');
  expect(margin.handles!.grips!(bench.context)).toEqual([]);
});
