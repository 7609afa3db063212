import { fileOf, openTab, until } from '../../../testing/ground';
import { ApplicationRef, createEnvironmentInjector, EnvironmentInjector } from '@angular/core';
import { Store } from '@ngrx/store';
import { describe, expect, it } from 'vitest';
import { planeToScreen, toPlane, withRollAdjust, type EdgeFit, type Point } from '@able-plumb/core';
import { DocumentKeeper } from '../../keeper/document-keeper';
import { JobKeeper } from '../../keeper/job-keeper';
import { benchActions } from '../../state/bench.actions';
import { correctionsFeature } from '../../state/corrections.reducer';
import { selectJobEntities } from '../../state/selectors';
import { line } from '../tools/line/line';
import { dragLine, lineHandles } from '../tools/line/line-handles';
import { markPanel } from '../tools/panel/panel';
import { dragPanelPoint } from '../tools/panel/panel-handles';
import type { PointerFacts } from '../tools/tool';
import type { ToolContext } from '../tools/tool-context';
import { trace } from '../tools/trace/trace';
import { BenchSwitches } from './bench-switches';
import { BenchToolContext } from './bench-tool-context';
import { Hand } from './hand';
import { Passing } from '../../ui/passing';
import { HeldKey } from './held-key';
import { Found } from './found';
import { Magnet } from './magnet';
import { PictureSession } from './picture-session';
import { ShownPicture } from './shown-picture';
import { StageView } from './stage-view';

/** Questions to the magnet that are answered when the test says so. */
class SlowMagnet {
  readonly asked: (() => void)[] = [];

  readonly later =
    <A extends readonly unknown[], T>(answer: (...ask: A) => T) =>
    (...ask: A): Promise<T> =>
      new Promise((resolve) => this.asked.push(() => resolve(answer(...ask))));

  async answerAll(): Promise<void> {
    for (let i = 0; i < 20; i += 1) {
      for (const answer of this.asked.splice(0)) answer();
      await new Promise((next) => setTimeout(next, 1));
    }
  }
}

const at = (x: number, y: number): PointerFacts => ({ at: [x, y], shift: false, alt: false, reach: 14 });

/** Two pictures of one job, and benches for them; edges lie 2 px below what is drawn. */
async function ground() {
  const magnet = new SlowMagnet();
  const below = ([x, y]: Point): Point => [x, y + 2];
  /** Along how much of a line there is that edge. */
  const sees = { share: 1 };
  const tab = openTab(
    {
      snap: magnet.later((_id: string, a: Point, b: Point) => [
        { a: below(a), b: below(b), share: sees.share, sdPx: 0.1, bendPx: 0 } as unknown as EdgeFit,
      ]),
      corners: magnet.later((_id: string, corners: Point[]) => corners.map(below)),
      open: magnet.later(() => undefined),
      follow: magnet.later((_id: string, a: Point, b: Point) => ({
        points: [a, [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2 + 3], b],
        contrast: 0.1,
        bowSdPx: 9,
      })),
    },
    [
      { provide: ApplicationRef, useValue: { tick: () => undefined } },
      { provide: Passing, useValue: { trouble: (sentence: string) => Promise.reject(new Error(sentence)) } },
    ],
  );
  const store = tab.get(Store);
  await tab.get(DocumentKeeper).load();
  const job = await tab.get(JobKeeper).newJob('Tower');
  const file = fileOf({ width: 600, height: 400 });
  const { added } = await tab.get(JobKeeper).addFiles(job.id, [
    { name: 'a.png', file },
    { name: 'b.png', file },
  ]);
  const [a, b] = added.map(({ id }) => id) as [string, string];
  const histories = store.selectSignal(correctionsFeature.selectHistories);
  /** A bench of its own for a picture, as the screen makes one. */
  const open = (pictureId: string) => {
    store.dispatch(benchActions.pictureOpened({ pictureId, sheet: false, tool: 'line' }));
    const heldKey = { provide: HeldKey, useValue: { name: () => null } };
    const bench = createEnvironmentInjector(
      [heldKey, PictureSession, BenchSwitches, StageView, Hand, Magnet, Found, ShownPicture, BenchToolContext],
      tab.get(EnvironmentInjector),
    );
    const [session, stageView, hand, magnet] = [bench.get(PictureSession), bench.get(StageView), bench.get(Hand), bench.get(Magnet)];
    session.loading.set({ state: 'ready' });
    stageView.view.set({ stage: { width: 600, height: 400 }, centre: [0, 0], scale: 1, mirrorX: false, mirrorY: false });
    return { session, stageView, hand, magnet, tool: bench.get(BenchToolContext) as ToolContext, close: () => bench.destroy() };
  };
  const documentOf = (id: string) => histories()[id]!.present;
  const draw = (tool: ToolContext, from: PointerFacts, to: PointerFacts): void => {
    const gesture = line.begin!(tool, from);
    gesture?.move(to);
    gesture?.release(to);
  };
  const jobs = store.selectSignal(selectJobEntities);
  return { magnet, sees, store, a, b, open, documentOf, draw, histories, lastOpened: () => jobs()[job.id]!.lastPictureId };
}

describe('a picture that is left before its answers are there', () => {
  it('gets the line that was drawn, settled, and the next picture gets nothing of it', async () => {
    const { magnet, a, b, open, documentOf, draw } = await ground();
    const first = open(a);
    draw(first.tool, at(100, 200), at(500, 210));
    first.close();
    const second = open(b);
    await magnet.answerAll();
    expect(documentOf(a).references.map((r) => r.a)).toEqual([[100, 202]]);
    expect(documentOf(b).references).toEqual([]);
    expect(second.hand.id()).toBeNull();
    expect(second.magnet.snapped()).toBeNull();
  });

  it('gets the end, the corner and the bead that were dragged', async () => {
    const { magnet, a, b, open, documentOf, draw } = await ground();
    for (const id of [a, b]) {
      const { tool, close } = open(id);
      draw(tool, at(100, 200), at(500, 210));
      for (const corner of [at(100, 100), at(500, 100), at(500, 300), at(100, 300)]) markPanel(tool, corner)?.release(corner);
      await magnet.answerAll();
      close();
    }
    const before = documentOf(b);
    const { tool, close } = open(a);
    const [reference, panel] = [documentOf(a).references[0]!, documentOf(a).panels[0]!];
    for (const gesture of [dragLine(tool, reference, 'b', at(0, 0)), dragPanelPoint(tool, panel, 2, at(0, 0))]) {
      gesture?.move(at(-20, 10));
      gesture?.release(at(-20, 10));
    }
    close();
    open(b);
    await magnet.answerAll();
    expect(documentOf(b)).toEqual(before);
    const changed = documentOf(a);
    expect(changed.references[0]!.b).not.toEqual(reference.b);
    expect(changed.panels[0]!.corners![2]).not.toEqual(panel.corners![2]);
    expect(changed.panels[0]!.corners![0]).toEqual(panel.corners![0]);
  });

  it('does not hand a held drag, a first click or a traced edge to the next one', async () => {
    const { magnet, a, b, open, documentOf, draw } = await ground();
    const first = open(a);
    draw(first.tool, at(100, 200), at(500, 210));
    await magnet.answerAll();
    const drag = dragLine(first.tool, documentOf(a).references[0]!, 'b', at(0, 0));
    drag?.move(at(0, 30));
    const click = line.begin!(first.tool, at(50, 50));
    const traced = trace.begin!(first.tool, at(60, 60));
    traced?.move(at(300, 60));
    traced?.release(at(300, 60));
    first.close();
    const second = open(b);
    const before = documentOf(a);
    drag?.move(at(0, 40));
    drag?.release(at(0, 40));
    click?.release(at(400, 60));
    await magnet.answerAll();
    expect(documentOf(b).references).toEqual([]);
    expect(second.hand.id()).toBeNull();
    expect(documentOf(b).lens.edges).toEqual([]);
    expect(second.session.correction()).toEqual(documentOf(b));
    // the drag had not ended, the trace had: its edge is in its own picture
    expect(documentOf(a).references).toEqual(before.references);
    expect(documentOf(a).lens.edges.length).toBe(1);
    expect(before.lens.edges).toEqual([]);
  });
});

describe('a gesture', () => {
  it('is one step however often it was previewed, and none where it is cancelled', async () => {
    const { a, open, documentOf, histories } = await ground();
    const { session } = open(a);
    const before = documentOf(a);
    for (const deg of [1, 2, 3]) session.preview((c) => withRollAdjust(c, deg));
    expect(session.correction()!.stance.adjust.roll).toBe(3);
    expect(documentOf(a)).toBe(before);
    session.cancel();
    expect(session.correction()).toBe(before);
    expect(histories()[a]!.past).toEqual([]);
    for (const deg of [1, 2, 3]) session.preview((c) => withRollAdjust(c, deg));
    session.commitShown();
    expect(histories()[a]!.past).toEqual([before]);
    expect(documentOf(a).stance.adjust.roll).toBe(3);
    expect(session.gestureActive()).toBe(false);
  });
});

describe('a picture that opens slowly', () => {
  it('is not the one to come back to when another was opened meanwhile', async () => {
    const { magnet, a, b, open, lastOpened } = await ground();
    const slow = open(a);
    const opening = slow.session.open();
    await until(() => magnet.asked.length === 1, 'the first is being opened');
    const [late] = magnet.asked.splice(0);
    slow.close();
    const quick = open(b);
    const opened = quick.session.open();
    await magnet.answerAll();
    await opened;
    expect(lastOpened()).toBe(b);
    late?.();
    await opening;
    expect(lastOpened()).toBe(b);
    expect(quick.session.loading().state).toBe('ready');
  });
});

describe('whoever does not wait for answers', () => {
  it('keeps every one of six lines and of two panels drawn before the first answer, in their order, a step of undo each', async () => {
    const { magnet, a, open, documentOf, draw, histories } = await ground();
    const { tool, session } = open(a);
    const rows = [60, 110, 160, 210, 260, 310];
    for (const y of rows) draw(tool, at(100, y), at(500, y + 4));
    expect(session.awaitedLines().length).toBe(6);
    for (const shift of [0, 20])
      for (const [x, y] of [
        [100, 100],
        [400, 100],
        [400, 300],
        [100, 300],
      ] as const)
        markPanel(tool, at(x + shift, y + shift))?.release(at(x + shift, y + shift));
    await magnet.answerAll();
    expect(documentOf(a).references.map((r) => r.a[1])).toEqual(rows.map((y) => y + 2));
    expect(documentOf(a).references.map((r) => r.id)).toEqual(['r1', 'r2', 'r3', 'r4', 'r5', 'r6']);
    expect(documentOf(a).panels.length).toBe(2);
    expect(histories()[a]!.past.length).toBe(8);
    expect(session.gestureActive()).toBe(false);
  });

  it('keeps both of two drags where the second begins before the first has settled', async () => {
    const { magnet, a, open, documentOf, draw } = await ground();
    const { tool, session } = open(a);
    draw(tool, at(100, 200), at(500, 210));
    draw(tool, at(100, 300), at(500, 310));
    await magnet.answerAll();
    const [one, two] = documentOf(a).references;
    for (const reference of [one!, two!]) {
      const gesture = dragLine(tool, reference, 'both', at(0, 0));
      gesture?.move(at(0, 25));
      gesture?.release(at(0, 25));
    }
    // the second is still in the hand when the first lands
    const third = dragLine(tool, two!, 'a', at(0, 0));
    third?.move(at(5, 0));
    await magnet.answerAll();
    expect(documentOf(a).references.map((r) => r.b[1])).not.toEqual([one!.b[1], two!.b[1]]);
    expect(Math.abs(documentOf(a).references[0]!.b[1] - one!.b[1])).toBeGreaterThan(20);
    expect(Math.abs(documentOf(a).references[1]!.b[1] - two!.b[1])).toBeGreaterThan(20);
    expect(session.gestureActive()).toBe(true);
    third?.cancel();
    expect(session.correction()).toEqual(documentOf(a));
  });

  it('places a line as well as the zoom was when it was let go, whatever is zoomed before the answer; half an edge does not hold it', async () => {
    const { magnet, a, open, documentOf, draw, sees } = await ground();
    sees.share = 0.3;
    const { tool, stageView, magnet: benchMagnet } = open(a);
    const zoom = (scale: number): void => stageView.view.update((view) => ({ ...view!, scale }));
    zoom(0.25);
    draw(tool, at(100, 60), at(400, 64));
    zoom(1);
    draw(tool, at(100, 200), at(500, 210));
    zoom(8);
    await magnet.answerAll();
    const { references } = documentOf(a);
    expect(references.map((r) => r.placedPx)).toEqual([2.4, 0.6]);
    // where they were drawn: on the plane, 100 screen px at a quarter are 400 px
    expect(references[1]!.a).toEqual([100, 200]);
    expect(benchMagnet.snapped()).toMatchObject({ fits: [], share: 0.3 });
    // along most of it, it settles, as surely as the edge says, and a key makes it the hand's again
    sees.share = 0.9;
    zoom(1);
    draw(tool, at(100, 300), at(500, 310));
    await magnet.answerAll();
    expect(documentOf(a).references[2]).toMatchObject({ placedPx: 0.1, bowPx: 0 });
    zoom(3);
    lineHandles.nudge!(tool, null, [0, 1], 'down');
    expect(documentOf(a).references[2]!.placedPx).toBeCloseTo(0.2, 9);
    expect(documentOf(a).references[2]!.bowPx).toBeUndefined();
  });

  it('gives a panel whose corner was dragged where nothing holds it the deviation of that zoom, for one of its four', async () => {
    const { magnet, a, open, documentOf } = await ground();
    const { tool, stageView, magnet: benchMagnet } = open(a);
    for (const corner of [at(100, 100), at(500, 100), at(500, 300), at(100, 300)]) markPanel(tool, corner)?.release(corner);
    await magnet.answerAll();
    expect(documentOf(a).panels[0]!.placedPx).toBeCloseTo(0.4, 9);
    benchMagnet.letGo.set(true);
    const warp = tool.warp()!;
    const [x, y] = toPlane(warp, documentOf(a).panels[0]!.corners![0]!)!;
    const start = at(...planeToScreen(stageView.view()!, [x, y]));
    const gesture = dragPanelPoint(tool, documentOf(a).panels[0]!, 0, start);
    gesture?.move(at(start.at[0] + 20, start.at[1]));
    gesture?.release(at(start.at[0] + 20, start.at[1]));
    await magnet.answerAll();
    expect(documentOf(a).panels[0]!.placedPx).toBeCloseTo(Math.sqrt((3 * 0.4 ** 2 + 0.6 ** 2) / 4), 9);
  });

  it('takes back with undo what still waits, and keeps it as drawn when the page goes', async () => {
    const { magnet, a, open, documentOf, draw } = await ground();
    const { tool, session } = open(a);
    draw(tool, at(100, 200), at(500, 210));
    draw(tool, at(100, 300), at(500, 310));
    session.undo();
    session.landAll();
    expect(documentOf(a).references.map((r) => r.a)).toEqual([[100, 200]]);
    await magnet.answerAll();
    expect(documentOf(a).references.map((r) => r.a)).toEqual([[100, 200]]);
    await until(() => !session.gestureActive(), 'nothing waits');
  });
});
