import { at, drag, dragHandle, toolBench } from '../../../../testing/tool-bench';
import { expect, it } from 'vitest';
import { shimLine } from '../shim-line/shim-line';
import { shimTrace } from '../shim-trace/shim-trace';
import { shim } from './shim';
import { shimHandles } from './shim-handles';

function withShim() {
  const bench = toolBench({ inHand: 'shim' });
  drag(bench, shim, at(150, 100), at(450, 300));
  return bench;
}
const of = (bench: ReturnType<typeof withShim>) => bench.committed().ease.shims[0]!;

it('a shim is drawn as a box and selected; its net gets finer by a key, while one is worked on', () => {
  const bench = withShim();
  const [, finer, coarser] = shim.actions!;
  expect([bench.selected(), bench.inHand()]).toEqual([of(bench).id, null]);
  const before = of(bench).crossings;
  expect(finer!.run(bench.context)).toBe(true);
  expect(of(bench).crossings).toBeGreaterThan(before);
  coarser!.run(bench.context);
  expect(of(bench).crossings).toBe(before);
  bench.selected.set(null);
  expect(finer!.run(bench.context)).toBe(false);
  // a click on its box works on it again
  expect(dragHandle(bench, shim, at(300, 200))).toBeNull();
  expect(bench.selected()).toBe(of(bench).id);
});

it('a crossing moves by drag and keys, settles on a guide, is nailed and freed; the shim is removed', () => {
  const bench = withShim();
  const grip = shimHandles.grips!(bench.context).find(({ part }) => (part as { of: string }).of === 'crossing')!;
  const gesture = dragHandle(bench, shim, at(...grip.at), at(grip.at[0] + 6, grip.at[1]));
  gesture?.cancel();
  expect(of(bench).holds).toEqual([]);
  dragHandle(bench, shim, at(...grip.at), at(grip.at[0] + 6, grip.at[1]))?.release(at(0, 0));
  expect(of(bench).holds.length).toBe(1);
  const held = bench.held()!;
  expect(shimHandles.nudge!(bench.context, held, [0, 2], 'down')).toBe(true);
  expect(shim.actions![0]!.run(bench.context)).toBe(true);
  // what is held of the net is freed first, then the shim goes
  expect(shimHandles.remove!(bench.context)).toBe(true);
  expect(of(bench).holds).toEqual([]);
  bench.held.set(null);
  expect(shimHandles.remove!(bench.context)).toBe(true);
  expect(bench.committed().ease.shims).toEqual([]);
  expect(shimHandles.remove!(bench.context)).toBe(false);
});

it('lines and traces in it go into the shim that is worked on, and nowhere where that is gone', async () => {
  const bench = withShim();
  bench.inHand.set('shim-line');
  drag(bench, shimLine, at(200, 200), at(400, 204));
  await bench.settle();
  expect(of(bench).lines.length).toBe(1);
  bench.inHand.set('shim-trace');
  bench.finds.course = {
    points: [
      [200, 150],
      [300, 153],
      [400, 150],
    ],
    contrast: 0.2,
    bowSdPx: 0.1,
  } as never;
  drag(bench, shimTrace, at(200, 150), at(400, 150));
  await bench.settle();
  expect(of(bench).lines.map(({ kind }) => kind)).toContain('straight');
  expect(bench.committed().lens.edges).toEqual([]);
  bench.selected.set(null);
  drag(bench, shimLine, at(200, 250), at(400, 254));
  drag(bench, shimTrace, at(200, 160), at(400, 160));
  await bench.settle();
  expect(of(bench).lines.length).toBe(2);
  expect(bench.said.filter((words) => words.startsWith('Click the shim first')).length).toBe(2);
});
