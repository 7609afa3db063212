import { blank, fileOf, openTab, until, wait, type Answers } from '../../testing/ground';
import { deleteDB, openDB } from 'idb';
import type { EnvironmentInjector } from '@angular/core';
import { Store } from '@ngrx/store';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { withRollAdjust, type Correction } from '@able-plumb/core';
import { correctionActions } from '../state/correction.actions';
import { correctionsFeature, newHistory } from '../state/corrections.reducer';
import { jobsFeature } from '../state/jobs.reducer';
import { savingFeature } from '../state/saving.reducer';
import { selectJobEntities } from '../state/selectors';
import { shelfActions } from '../state/shelf.actions';
import { DocumentKeeper } from './document-keeper';
import { Shelf } from '../shelf/shelf';
import { FilesClient } from '../work/files-client';
import type { Decoded } from '../work/protocol';
import { JobKeeper } from './job-keeper';
import { TabChannel } from './tab-channel';

const tabs: EnvironmentInjector[] = [];

/** A tab with what is on the shelf in sight. */
async function newTab(answers?: Answers) {
  const tab = openTab(answers);
  tabs.push(tab);
  const store = tab.get(Store);
  const documents = tab.get(DocumentKeeper);
  await documents.load();
  const histories = store.selectSignal(correctionsFeature.selectHistories);
  return {
    store,
    documents,
    jobs: tab.get(JobKeeper),
    histories,
    unsaved: store.selectSignal(savingFeature.selectUnsaved),
    saveError: store.selectSignal(savingFeature.selectSaveError),
    notices: store.selectSignal(jobsFeature.selectNotices),
    jobOf: store.selectSignal(selectJobEntities),
    rollOf: (id: string) => histories()[id]?.present.stance.adjust.roll,
    roll: (id: string, deg: number) =>
      store.dispatch(
        correctionActions.committed({ pictureId: id, correction: withRollAdjust(histories()[id]?.present as Correction, deg) }),
      ),
  };
}

async function withPicture(tab: Awaited<ReturnType<typeof newTab>>, name = 'tower.png') {
  const job = await tab.jobs.newJob('Tower');
  const { added } = await tab.jobs.addFiles(job.id, [{ name, file: fileOf({ width: 600, height: 400 }) }]);
  return { jobId: job.id, id: added[0]?.id as string };
}

/** The database itself, looked at from outside. */
async function shelf() {
  const db = await openDB('able-plumb', 3);
  looking.push(db);
  return db;
}
const looking: { close(): void }[] = [];

afterEach(async () => {
  vi.restoreAllMocks();
  for (const tab of tabs.splice(0)) {
    await tab.get(DocumentKeeper).flush();
    tab.get(TabChannel).ngOnDestroy();
    await tab.get(Shelf).close();
  }
  for (const db of looking.splice(0)) db.close();
  await deleteDB('able-plumb');
});

describe('documents on the shelf', () => {
  it('count as unsaved from the change until their own write has ended, and note the time of it in their job', async () => {
    const tab = await newTab();
    const { jobId, id } = await withPicture(tab);
    const before = tab.jobOf()[jobId]?.changedAt as number;
    await wait(5);
    tab.roll(id, 3);
    expect(tab.unsaved()).toBe(1);
    await until(() => tab.unsaved() === 0, 'saved');
    expect(((await (await shelf()).get('histories', id)) as { present: Correction }).present.stance.adjust.roll).toBe(3);
    await until(() => (tab.jobOf()[jobId]?.changedAt as number) > before, 'the time of the change');
  });

  it('say when there is no room, keep what failed, and are written once there is', async () => {
    const tab = await newTab();
    const { id } = await withPicture(tab);
    const other = await withPicture(tab);
    const put = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    tab.roll(id, 3);
    await until(() => tab.saveError() !== null, 'an error');
    expect(tab.saveError()).toMatch(/no room left.*Everything before it is safe/);
    put.mockRestore();
    // another document that is written does not hide that this one is not
    tab.roll(other.id, 1);
    await until(() => tab.unsaved() === 1, 'the other one');
    expect(tab.saveError()).not.toBeNull();
    await until(() => tab.unsaved() === 0, 'tried again');
    expect(tab.saveError()).toBeNull();
  });

  it('of settings: a change that failed is kept with the next one that is written', async () => {
    const tab = await newTab();
    const put = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementationOnce(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    tab.store.dispatch(shelfActions.settingsChanged({ change: { theme: 'dim' } }));
    await wait(25);
    tab.store.dispatch(shelfActions.settingsChanged({ change: { magnet: false } }));
    await until(() => tab.unsaved() === 0, 'saved');
    put.mockRestore();
    expect(await (await shelf()).get('settings', 'all')).toMatchObject({ theme: 'dim', magnet: false });
  });

  it('refuse a picture that has no room, and keep the ones before it', async () => {
    const tab = await newTab();
    const { jobId } = await withPicture(tab);
    const put = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    const { added, refused } = await tab.jobs.addFiles(jobId, [{ name: 'b.png', file: fileOf({ width: 60, height: 40 }) }]);
    put.mockRestore();
    expect([added, refused.length, tab.jobOf()[jobId]?.pictureIds.length]).toEqual([[], 1, 1]);
    expect(refused[0]).toMatch(/no room left/);
  });

  it('of many files lie in their order, whichever is known first; three are looked into at a time, the first is told, one that is refused stops none', async () => {
    const tab = await newTab();
    const inspector = tabs.at(-1)!.get(FilesClient);
    const look = inspector.inspect.bind(inspector);
    let [looking, most] = [0, 0];
    vi.spyOn(inspector, 'inspect').mockImplementation(async (name, file) => {
      most = Math.max(most, (looking += 1));
      // what comes later is known sooner
      await wait(60 - 8 * Number(name[0]));
      looking -= 1;
      if (name.startsWith('3')) throw new Error('3.png is damaged.');
      return look(name, file);
    });
    const job = await tab.jobs.newJob('Tower');
    const told: number[] = [];
    const names = Array.from({ length: 7 }, (_, i) => `${i}.png`);
    const { added, refused } = await tab.jobs.addFiles(
      job.id,
      names.map((name) => ({ name, file: fileOf({ width: 60, height: 40 }) })),
      () => told.push(tab.jobOf()[job.id]?.pictureIds.length ?? 0),
    );
    expect(added.map(({ name }) => name)).toEqual(names.filter((name) => name !== '3.png'));
    expect(tab.jobOf()[job.id]?.pictureIds).toEqual(added.map(({ id }) => id));
    expect([refused, told, most]).toEqual([['3.png is damaged.'], [1], 3]);
  });

  it('hand on what was decoded of a picture that comes alone and is opened next, and of no other', async () => {
    const handedOn: unknown[] = [];
    const tab = await newTab({ keepDecoded: (id: string, picture: Decoded) => handedOn.push([id, picture]) });
    const decoded = { raster: { width: 600, height: 400, channels: 3, data: new Uint8Array() } } as Decoded;
    const inspector = tabs.at(-1)!.get(FilesClient);
    const look = inspector.inspect.bind(inspector);
    vi.spyOn(inspector, 'inspect').mockImplementation(async (name, file, opens) => ({
      ...(await look(name, file)),
      decoded: opens ? decoded : null,
    }));
    const job = await tab.jobs.newJob('Tower');
    const add = (names: readonly string[], opens?: boolean) =>
      tab.jobs.addFiles(
        job.id,
        names.map((name) => ({ name, file: fileOf({ width: 600, height: 400 }) })),
        undefined,
        opens,
      );
    await add(['shown-as-it-comes.tif']);
    await add(['one.tif', 'two.tif'], true);
    const { added } = await add(['scan.tif'], true);
    expect(handedOn).toEqual([[added[0]?.id, decoded]]);
  });

  it('leave out records that are damaged, say so, and keep the rest and what is damaged', async () => {
    const first = await newTab();
    const { jobId, id } = await withPicture(first);
    const damaged = await withPicture(first, 'hall.png');
    const lost = await withPicture(first, 'gallery.png');
    first.roll(damaged.id, 2);
    await until(() => first.unsaved() === 0, 'saved');
    const db = await shelf();
    await db.put('jobs', { id: 'x', name: 7 });
    await db.put('settings', { theme: 'dim', shade: 'much' }, 'all');
    const record = (await db.get('histories', damaged.id)) as { present: object };
    await db.put('histories', { ...record, present: { ...record.present, stance: { roll: 'askew' } } }, damaged.id);
    await db.put('histories', 7, lost.id);
    db.close();

    const tab = await newTab();
    expect(tab.notices().join()).toMatch(/One record in this browser cannot be read/);
    const settings = tab.store.selectSignal(jobsFeature.selectSettings)();
    expect([settings.theme, settings.shade]).toEqual(['dim', 0.56]);
    await tab.documents.loadHistories([id, damaged.id, lost.id]);
    expect(tab.notices().join()).toMatch(/What was set for hall.png, gallery.png cannot be read whole/);
    expect([tab.rollOf(id), tab.rollOf(damaged.id), tab.rollOf(lost.id)]).toEqual([0, 0, 0]);
    expect(tab.jobOf()[jobId]).toBeDefined();
    expect(await (await shelf()).get('jobs', 'x')).toBeDefined();
  });

  it('take older documents for what they are: without a version, with fields that have defaults now', async () => {
    const tab = await newTab();
    const { id } = await withPicture(tab);
    const { guides: _none, ...older } = withRollAdjust(blank(), 2);
    await (await shelf()).put('histories', { past: [], present: older, future: [] }, id);
    const fresh = await newTab();
    await fresh.documents.loadHistories([id]);
    expect(fresh.histories()[id]).toEqual({ ...newHistory(withRollAdjust(blank(), 2)) });
    fresh.roll(id, 4);
    await until(() => fresh.unsaved() === 0, 'saved');
    expect(fresh.notices()).toEqual([]);
  });

  it('never write over what another tab wrote, and show that instead', async () => {
    const [one, two] = [await newTab(), await newTab()];
    const { jobId, id } = await withPicture(one);
    await until(() => two.jobOf()[jobId]?.pictureIds.includes(id) ?? false, 'the picture in the other tab');
    await two.documents.loadHistories([id]);
    one.roll(id, 1);
    // at the same time, before the first is told
    two.roll(id, 2);
    await until(() => one.unsaved() + two.unsaved() === 0, 'saved');
    await until(() => one.rollOf(id) === two.rollOf(id), 'the same in both');
    const stored = (await (await shelf()).get('histories', id)) as { present: Correction };
    expect(stored.present.stance.adjust.roll).toBe(one.rollOf(id));
    expect([...one.notices(), ...two.notices()].join()).toMatch(/changed in another tab meanwhile/);
  });

  it('follow what another tab does: corrections, settings, pictures, and a job that is removed', async () => {
    const [one, two] = [await newTab(), await newTab()];
    const { jobId, id } = await withPicture(one);
    await until(() => two.jobOf()[jobId]?.pictureIds.length === 1, 'the picture in the other tab');
    await two.documents.loadHistories([id]);
    one.roll(id, 5);
    await until(() => two.rollOf(id) === 5, 'the correction');
    one.store.dispatch(shelfActions.settingsChanged({ change: { theme: 'dim' } }));
    two.store.dispatch(shelfActions.settingsChanged({ change: { magnet: false } }));
    const settings = [one, two].map((tab) => tab.store.selectSignal(jobsFeature.selectSettings));
    await until(() => settings.every((s) => s().theme === 'dim' && !s().magnet), 'both settings in both');
    two.roll(id, 6);
    await one.jobs.removeJob(jobId);
    await until(() => two.jobOf()[jobId] === undefined, 'the job gone');
    expect(two.notices().join()).toMatch(/The job Tower was removed in another tab/);
    await until(() => two.unsaved() === 0, 'nothing waits for what is gone');
    expect(await (await shelf()).get('histories', id)).toBeUndefined();
  });

  it('come back as they were last, where a page ended before their history was written: what that has is the step before', async () => {
    const tab = await newTab();
    const { jobId, id } = await withPicture(tab);
    tab.documents.owns(jobId, true);
    tab.roll(id, 1);
    await until(() => tab.unsaved() === 0, 'saved');
    await wait(60);
    const put = vi.spyOn(IDBObjectStore.prototype, 'put');
    tab.roll(id, 2);
    // in this very turn, the small document alone
    for (let i = 0; i < 10; i += 1) await Promise.resolve();
    expect(put.mock.calls.length).toBe(1);
    const db = await shelf();
    const history = (await db.get('histories', id)) as { version: number };
    await until(() => tab.unsaved() === 0, 'saved');
    // as if the page had ended in between
    await db.put('histories', history, id);
    const again = await newTab();
    await again.documents.loadHistories([id]);
    expect(again.rollOf(id)).toBe(2);
    expect(again.histories()[id]?.past.map((c) => c.stance.adjust.roll)).toEqual([0, 1]);
    expect(again.notices()).toEqual([]);
  });

  it('of the demo job: what the server lacks is told, and no half of it stays', async () => {
    const tab = await newTab();
    const index = { name: 'Tarnbeck', pictures: [{ name: 'a.jpg' }, { name: 'b.jpg' }], lenses: [] };
    vi.stubGlobal('fetch', async (path: string) =>
      path.endsWith('index.json')
        ? Response.json(index)
        : path.endsWith('a.jpg')
          ? new Response('60 x 40')
          : new Response('no such file', { status: 404 }),
    );
    await expect(tab.jobs.openDemo(() => undefined)).rejects.toThrow(/the server has no b\.jpg \(404\)/);
    expect(Object.keys(tab.jobOf())).toEqual([]);
    vi.unstubAllGlobals();
  });
});
