import { at, drag, dragHandle, toolBench } from '../../../../testing/tool-bench';
import { describe, expect, it } from 'vitest';
import { panel } from './panel';
import { panelHandles } from './panel-handles';

const CORNERS = [at(100, 100), at(500, 100), at(500, 300), at(100, 300)];

async function withPanel(sheet = false) {
  const bench = toolBench({ inHand: 'panel', sheet });
  for (const corner of CORNERS) drag(bench, panel, corner);
  await bench.settle();
  return bench;
}

describe('a panel', () => {
  it('is made by four clicks, its corners settled on real ones; the tool is laid down', async () => {
    const bench = toolBench({ inHand: 'panel' });
    bench.finds.corner = ([x, y]) => [x + 1, y];
    for (const corner of CORNERS.slice(0, 3)) drag(bench, panel, corner);
    expect([bench.context.drawing.points().length, bench.committed().panels.length]).toEqual([3, 0]);
    drag(bench, panel, CORNERS[3]!);
    await bench.settle();
    expect(bench.committed().panels[0]).toMatchObject({
      corners: [
        [101, 100],
        [501, 100],
        [501, 300],
        [101, 300],
      ],
      placedPx: 0.4,
    });
    expect(bench.inHand()).toBeNull();
  });

  it('is made by its diagonal; corners that were begun are taken back by Escape, a press by cancel', async () => {
    const bench = toolBench({ inHand: 'panel' });
    drag(bench, panel, at(100, 100));
    expect([panel.back!(bench.context), panel.back!(bench.context), bench.context.drawing.points()]).toEqual([true, false, []]);
    const press = panel.begin!(bench.context, at(50, 50));
    press?.cancel();
    expect(bench.context.drawing.points()).toEqual([]);
    drag(bench, panel, at(100, 100), at(300, 200), at(500, 300));
    await bench.settle();
    expect(bench.committed().panels[0]?.corners).toEqual([
      [100, 100],
      [500, 100],
      [500, 300],
      [100, 300],
    ]);
  });

  it('moves one corner by drag and keys while the others stay, and is removed by the corner that is held', async () => {
    const bench = await withPanel();
    bench.finds.holds = false;
    const before = bench.committed().panels[0]!;
    const grip = panelHandles.grips!(bench.context)[2]!;
    dragHandle(bench, panel, at(...grip.at), at(grip.at[0] + 12, grip.at[1]))?.release(at(0, 0));
    await bench.settle();
    const moved = bench.committed().panels[0]!;
    expect(moved.corners![2]).not.toEqual(before.corners![2]);
    expect([0, 1, 3].map((i) => moved.corners![i])).toEqual([0, 1, 3].map((i) => before.corners![i]));
    const held = bench.held()!;
    expect(panelHandles.nudge!(bench.context, held, [0, 2], 'down')).toBe(true);
    expect(bench.committed().panels[0]!.corners![2]).not.toEqual(moved.corners![2]);
    expect(panelHandles.round!(bench.context).handles.length).toBe(4);
    expect(panelHandles.remove!(bench.context)).toBe(true);
    expect(bench.committed().panels).toEqual([]);
    expect(panelHandles.nudge!(bench.context, held, [0, 2], 'down')).toBe(false);
  });

  it('on a sheet moves by its sides and is selected by a press inside; elsewhere its sides are not in the way', async () => {
    const [sheet, bench] = [await withPanel(true), await withPanel()];
    sheet.finds.holds = false;
    expect(panelHandles.under!(bench.context, at(300, 100))).toBeNull();
    expect(panelHandles.around!(bench.context, at(300, 200))).toBeNull();
    const id = sheet.committed().panels[0]!.id;
    expect(panelHandles.around!(sheet.context, at(300, 200))).toBe(id);
    const before = sheet.committed().panels[0]!.corners!;
    const sides = panelHandles.grips!(sheet.context).map((g) => g.at);
    const middle = at((sides[0]![0] + sides[1]![0]) / 2, (sides[0]![1] + sides[1]![1]) / 2);
    dragHandle(sheet, panel, middle, at(middle.at[0], middle.at[1] - 20))?.release(middle);
    await sheet.settle();
    const after = sheet.committed().panels[0]!.corners!;
    expect(after[0][1]).toBeLessThan(before[0][1]);
    expect(after[1][1]).toBeLessThan(before[1][1]);
    expect([after[2], after[3]]).toEqual([before[2], before[3]]);
  });
});
