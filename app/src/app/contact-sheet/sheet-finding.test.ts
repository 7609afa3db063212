import { openTab, fileOf, until, wait } from '../../testing/ground';
import { createEnvironmentInjector, EnvironmentInjector } from '@angular/core';
import { Store } from '@ngrx/store';
import { beforeEach, describe, expect, it } from 'vitest';
import { withFoundLines, withReferences, type Correction, type FoundLine, type Said, type Suggestion } from '@able-plumb/core';
import { DocumentKeeper } from '../keeper/document-keeper';
import { Finder } from '../keeper/finder';
import { JobKeeper } from '../keeper/job-keeper';
import { contactActions } from '../state/contact.reducer';
import { correctionActions } from '../state/correction.actions';
import { correctionsFeature } from '../state/corrections.reducer';
import { findingFeature } from '../state/finding.reducer';
import { FindClient, type Asking } from '../work/find-client';
import { SheetFinding } from './sheet-finding';
import { SheetModel } from './sheet-model';

const LINES: readonly FoundLine[] = [100, 300, 500].map((x) => ({ kind: 'plumb', a: [x * 0.9 + 30, 40], b: [x, 360], placedPx: 0.2 }));

/** A picture that says it stands plumb, that sure. */
const saying =
  (withinDeg: number, sure: Suggestion['sure'] = 'sure') =>
  ({ correction }: Asking): Said => ({
    suggestions: [
      {
        kind: 'stand-plumb',
        sure,
        withinDeg,
        correction: withFoundLines(correction, LINES, 'stand-plumb', false),
        evidence: { agree: 3, against: 0, lines: [] },
      } as unknown as Suggestion,
    ],
    silent: [],
    witnesses: [],
  });

/** A job of four pictures whose questions are answered when the test says so. */
async function ground() {
  const waiting = new Map<string, (said: Said | null) => void>();
  const hurried: string[] = [];
  const asked: Asking[] = [];
  const client = {
    ask: (asking: Asking) =>
      new Promise<Said | null>((answer) => {
        asked.push(asking);
        waiting.set(asking.pictureId, answer);
      }),
    hurry: (id: string) => hurried.push(id),
    forget: (id: string) => waiting.get(id)?.(null),
  };
  const tab = openTab({}, [{ provide: FindClient, useValue: client }]);
  const store = tab.get(Store);
  await tab.get(DocumentKeeper).load();
  const job = await tab.get(JobKeeper).newJob('Tower');
  const files = ['a', 'b', 'c', 'd'].map((name) => ({ name: `${name}.png`, file: fileOf({ width: 600, height: 400 }) }));
  const { added } = await tab.get(JobKeeper).addFiles(job.id, files);
  const ids = added.map(({ id }) => id) as [string, string, string, string];
  const sheet = createEnvironmentInjector([SheetModel, SheetFinding], tab.get(EnvironmentInjector));
  const [model, finding] = [sheet.get(SheetModel), sheet.get(SheetFinding)];
  await model.open(job.id);
  store.dispatch(contactActions.selected({ ids }));
  const histories = store.selectSignal(correctionsFeature.selectHistories);
  const findings = store.selectSignal(findingFeature.selectFindings);
  const present = (id: string): Correction => histories()[id]!.present;
  const found = (id: string): number => present(id).references.filter(({ by }) => by === 'found').length;
  return { tab, store, model, finding, ids, waiting, hurried, asked, findings, present, found };
}

describe('lines found in many pictures', () => {
  let g: Awaited<ReturnType<typeof ground>>;
  beforeEach(async () => {
    g = await ground();
  });

  const answer = async (...said: readonly (((asking: Asking) => Said) | null)[]): Promise<void> => {
    g.ids.forEach((id, i) => g.waiting.get(id)?.(said[i]?.(g.asked.find(({ pictureId }) => pictureId === id)!) ?? null));
    await wait(5);
  };

  it('are taken where they are sure to the limit and nobody drew, and taken back at once', async () => {
    const drawn = withReferences(g.present(g.ids[2]), [{ ...LINES[0]!, id: 'r1', statedAngle: 0, used: true, by: undefined }]);
    g.store.dispatch(correctionActions.committed({ pictureId: g.ids[2], correction: drawn }));
    void g.finding.find();
    await until(() => g.asked.length === 4, 'all are asked');
    expect(g.finding.progress()).toMatchObject({ done: 0, all: 4 });
    await answer(saying(0.05), saying(0.12), saying(0.05), saying(0.3, 'likely'));
    expect(g.finding.progress()).toBeNull();
    expect(g.finding.sorted()).toEqual({ sure: [g.ids[0], g.ids[1]], rest: [g.ids[2], g.ids[3]] });
    g.finding.limitDeg.set(0.1);
    expect(g.finding.sorted().sure).toEqual([g.ids[0]]);
    g.finding.limitDeg.set(0.15);
    g.finding.takeSure();
    expect(g.ids.map(g.found)).toEqual([3, 3, 0, 0]);
    expect(g.model.said()?.text).toContain('2 pictures have their lines now (stand plumb). 2 are left as before');
    expect(g.present(g.ids[2])).toBe(drawn);
    g.finding.takeBack();
    expect(g.ids.map(g.found)).toEqual([0, 0, 0, 0]);
    expect(g.finding.canTakeBack()).toBe(false);
  });

  it('are not taken back over what was changed since', async () => {
    void g.finding.find();
    await until(() => g.asked.length === 4, 'all are asked');
    await answer(saying(0.05), null, null, null);
    g.finding.takeSure();
    expect(g.finding.canTakeBack()).toBe(true);
    const changed = { ...g.present(g.ids[0]), references: [] };
    g.store.dispatch(correctionActions.committed({ pictureId: g.ids[0], correction: changed }));
    expect(g.finding.canTakeBack()).toBe(false);
  });

  it('are taken once for a linked set, whose pictures follow, and go back with it', async () => {
    await g.tab.get(JobKeeper).link([g.ids[0], g.ids[1]], true);
    void g.finding.find();
    await until(() => g.asked.length === 4, 'all are asked');
    await answer(saying(0.05), saying(0.05), null, null);
    g.finding.takeSure();
    await until(() => g.found(g.ids[1]) === 3, 'the other follows');
    expect(g.finding.canTakeBack()).toBe(true);
    g.finding.takeBack();
    await until(() => g.found(g.ids[0]) === 0 && g.found(g.ids[1]) === 0, 'both went back');
  });

  it('an answer to another lens counts for nothing, whichever comes first; one that waits is hurried, not asked twice', async () => {
    const finder = g.tab.get(Finder);
    const [id] = g.ids;
    void finder.ask([id], false);
    await until(() => g.asked.length === 1, 'it is asked');
    const late = g.waiting.get(id)!;
    void finder.ask([id], true);
    await wait(5);
    expect([g.asked.length, g.hurried]).toEqual([1, [id]]);
    const longer = { ...g.present(id), camera: { ...g.present(id).camera, focalPx: 900, focalFrom: 'typed' as const } };
    g.store.dispatch(correctionActions.committed({ pictureId: id, correction: longer }));
    void finder.ask([id], true);
    await until(() => g.asked.length === 2, 'it is asked anew');
    g.waiting.get(id)!(saying(0.05)(g.asked[1]!));
    await wait(5);
    const with900 = g.findings()[id];
    late(saying(0.5, 'likely')(g.asked[0]!));
    await wait(5);
    expect(g.findings()[id]).toBe(with900);
    expect(with900?.said?.suggestions[0]?.sure).toBe('sure');
  });

  it('given up, they wait no more, and what was found stays', async () => {
    void g.finding.find();
    await until(() => g.asked.length === 4, 'all are asked');
    g.waiting.get(g.ids[0])!(saying(0.05)(g.asked[0]!));
    await wait(5);
    g.finding.cancel();
    await until(() => g.finding.progress() === null, 'none waits');
    expect(Object.keys(g.findings())).toEqual([g.ids[0]]);
  });
});
