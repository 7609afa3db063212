import { at, drag, dragHandle, handleAt, toolBench } from '../../../../testing/tool-bench';
import { describe, expect, it } from 'vitest';
import { line } from './line';
import { lineHandles } from './line-handles';

const edge = (y: number) => ({ a: [100, y] as const, b: [500, y] as const, share: 0.9, sdPx: 0.1, bendPx: 0.4 });

async function withLine() {
  const bench = toolBench({ inHand: 'line' });
  drag(bench, line, at(100, 200), at(500, 212));
  await bench.settle();
  return bench;
}

describe('the pen', () => {
  it('makes a line by a drag, on the edge that the magnet finds, and selects it; a slip and a cancelled drag make none', async () => {
    const bench = toolBench({ inHand: 'line' });
    bench.finds.edges = [edge(203) as never];
    drag(bench, line, at(100, 200), at(300, 210), at(500, 212));
    expect(bench.context.drawing.line()).toBeNull();
    await bench.settle();
    expect(bench.committed().references).toMatchObject([{ kind: 'level', a: [100, 203], b: [500, 203], placedPx: 0.1 }]);
    expect(bench.selected()).toBe(bench.committed().references[0]!.id);
    const before = bench.committed();
    drag(bench, line, at(100, 100), at(106, 101));
    const cancelled = line.begin!(bench.context, at(100, 100));
    cancelled?.move(at(400, 110));
    cancelled?.cancel();
    await bench.settle();
    expect(bench.committed()).toBe(before);
    expect(bench.context.drawing.line()).toBeNull();
  });

  it('makes one by two clicks, and by the keyboard; what is too steep for level and not for plumb waits to be told', async () => {
    const bench = toolBench({ inHand: 'line' });
    const clicked = line.begin!(bench.context, at(300, 50));
    expect(clicked?.release(at(300, 50))).toBe(true);
    clicked?.move(at(304, 350));
    expect(clicked?.release(at(304, 350))).toBe(false);
    const typed = line.begin!(bench.context, at(100, 300));
    typed?.move(at(300, 150));
    typed?.finish?.();
    await bench.settle();
    expect(bench.committed().references.map(({ kind, waits }) => [kind, waits ?? false])).toEqual([
      ['plumb', false],
      ['return', true],
    ]);
  });

  it('moves an end, or the whole line, by drag and by keys, from its own snapshot; cancel leaves it', async () => {
    const bench = await withLine();
    const [drawn] = bench.committed().references;
    // the solved picture holds still: the line is where the stage shows it now
    const grip = lineHandles.grips!(bench.context)[1]!;
    bench.finds.holds = false;
    const gesture = dragHandle(bench, line, at(...grip.at), at(grip.at[0], grip.at[1] + 30), at(grip.at[0], grip.at[1] + 10));
    gesture?.cancel();
    expect(bench.committed().references[0]).toEqual(drawn);
    dragHandle(bench, line, at(...grip.at), at(grip.at[0], grip.at[1] + 10))?.release(at(0, 0));
    await bench.settle();
    const moved = bench.committed().references[0]!;
    expect(moved.a).toEqual(drawn!.a);
    expect(Math.hypot(moved.b[0] - drawn!.b[0], moved.b[1] - drawn!.b[1])).toBeCloseTo(10, 1);
    expect(bench.held()).toMatchObject({ tool: 'line', id: moved.id, part: 'b' });
    lineHandles.nudge!(bench.context, { tool: 'line', id: moved.id, part: 'a' }, [0, 1], 'down');
    expect(bench.committed().references[0]!.b).toEqual(moved.b);
    expect(bench.committed().references[0]!.a).not.toEqual(moved.a);
    bench.selected.set(null);
    expect(lineHandles.nudge!(bench.context, null, [0, 1], 'down')).toBe(false);
  });

  it('goes round its ends by key, changes kind, is set aside and removed; all of it only while it is selected', async () => {
    const bench = await withLine();
    const [kind, aside] = line.actions!;
    const id = bench.selected()!;
    expect(lineHandles.round!(bench.context).handles).toEqual([{ tool: 'line', id, part: 'a' }, { tool: 'line', id, part: 'b' }, null]);
    expect(kind!.run(bench.context) && aside!.run(bench.context)).toBe(true);
    expect(bench.committed().references[0]).toMatchObject({ kind: 'return', used: false });
    bench.selected.set(null);
    expect([kind!.run(bench.context), aside!.run(bench.context), lineHandles.remove!(bench.context)]).toEqual([false, false, false]);
    bench.selected.set(id);
    expect(lineHandles.remove!(bench.context)).toBe(true);
    expect([bench.committed().references, bench.selected()]).toEqual([[], null]);
  });

  it('is under the pointer along its course at References and Stance alone, and gone from the hand once its line is gone', async () => {
    const bench = await withLine();
    const { middle } = { middle: lineHandles.grips!(bench.context) };
    const between = at((middle[0]!.at[0] + middle[1]!.at[0]) / 2, (middle[0]!.at[1] + middle[1]!.at[1]) / 2);
    const { hit } = handleAt(bench, line, between);
    bench.context.commit((c) => ({ ...c, references: [] }));
    expect(lineHandles.drag(bench.context, hit, between)).toBeNull();
    bench.step.set('crop');
    expect(lineHandles.under!(bench.context, between)).toBeNull();
  });
});
