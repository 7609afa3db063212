import { fileOf, openTab, until } from '../../testing/ground';
import { deleteDB, openDB } from 'idb';
import type { EnvironmentInjector } from '@angular/core';
import { Store } from '@ngrx/store';
import { afterEach, describe, expect, it } from 'vitest';
import { followsOutline, sheetOf, withFoundPieces, withRollAdjust, withSheet, type Correction, type Piece } from '@able-plumb/core';
import { correctionActions } from '../state/correction.actions';
import { correctionsFeature } from '../state/corrections.reducer';
import { selectJobEntities, selectPictureEntities } from '../state/selectors';
import { Shelf } from '../shelf/shelf';
import { ArchiveKeeper } from './archive-keeper';
import { DocumentKeeper } from './document-keeper';
import { JobKeeper } from './job-keeper';
import { SheetKeeper } from './sheet-keeper';
import { TabChannel } from './tab-channel';

const tabs: EnvironmentInjector[] = [];

async function newTab() {
  const tab = openTab();
  tabs.push(tab);
  const store = tab.get(Store);
  await tab.get(DocumentKeeper).load();
  const histories = store.selectSignal(correctionsFeature.selectHistories);
  const present = (id: string): Correction => histories()[id]?.present as Correction;
  return {
    store,
    jobs: tab.get(JobKeeper),
    sheets: tab.get(SheetKeeper),
    archives: tab.get(ArchiveKeeper),
    documents: tab.get(DocumentKeeper),
    present,
    jobOf: store.selectSignal(selectJobEntities),
    pictures: store.selectSignal(selectPictureEntities),
    commit: (id: string, change: (c: Correction) => Correction) =>
      store.dispatch(correctionActions.committed({ pictureId: id, correction: change(present(id)) })),
  };
}

const box = (x: number, y: number, w = 200, h = 150): Piece['corners'] => [
  [x, y],
  [x + w, y],
  [x + w, y + h],
  [x, y + h],
];

/** A job with another picture before and behind a sheet of two prints that was split. */
async function split() {
  const tab = await newTab();
  const job = await tab.jobs.newJob('Prints');
  const { added } = await tab.jobs.addFiles(
    job.id,
    ['before.png', 'heap.png', 'behind.png'].map((name, i) => ({ name, file: fileOf({ width: 600, height: 400 + (i - 1) * 10 }) })),
  );
  const heap = added[1]!;
  tab.commit(heap.id, (c) => withFoundPieces(c, [{ corners: box(20, 20) }, { corners: box(300, 200) }], { ppi: 300 }));
  const { ids } = await tab.sheets.split(heap);
  return { ...tab, jobId: job.id, heap, ids, added };
}

/** What lies under the originals' keys. */
async function originals(): Promise<readonly IDBValidKey[]> {
  const db = await openDB('able-plumb', 3);
  const keys = await db.getAllKeys('originals');
  db.close();
  return keys;
}

afterEach(async () => {
  for (const tab of tabs.splice(0)) {
    await tab.get(DocumentKeeper).flush();
    tab.get(TabChannel).ngOnDestroy();
    await tab.get(Shelf).close();
  }
  await deleteDB('able-plumb');
});

describe('a split sheet', () => {
  it('has its pieces’ pictures right behind it, named by pattern, on one original; a second split adds only what is new', async () => {
    const { jobOf, jobId, heap, ids, added, pictures, sheets, jobs, commit } = await split();
    expect(jobOf()[jobId]?.pictureIds).toEqual([added[0]?.id, heap.id, ...ids, added[2]?.id]);
    expect(ids.map((id) => pictures()[id]?.name)).toEqual(['heap-1.png', 'heap-2.png']);
    expect(await originals()).toHaveLength(3);
    expect(await (await jobs.original(ids[1] as string))?.text()).toBe(await (await jobs.original(heap.id))?.text());
    commit(heap.id, (c) => withSheet(c, { pieces: [...sheetOf(c).pieces, { id: 's9', corners: box(20, 220), quarterTurns: 0 }] }));
    const again = await sheets.split(heap);
    expect(again.made).toBe(1);
    expect(again.ids.slice(0, 2)).toEqual(ids);
    expect(jobOf()[jobId]?.pictureIds).toEqual([added[0]?.id, heap.id, ...again.ids, added[2]?.id]);
  });

  it('moves its pictures with their outlines, and back by undo, but for what a hand changed', async () => {
    const { heap, ids, commit, present, store } = await split();
    const [first, second] = ids as [string, string];
    const width = (id: string): number => present(id).crop.rect?.width ?? 0;
    commit(second, (c) => withRollAdjust(c, 0.5));
    commit(heap.id, (c) =>
      withSheet(c, { pieces: sheetOf(c).pieces.map((p) => ({ ...p, corners: box(p.corners[0][0], p.corners[0][1], 150, 100) })) }),
    );
    await until(() => width(first) === 150, 'the outline is followed');
    expect(width(second)).toBe(200);
    expect(followsOutline(present(second))).toBe(false);
    store.dispatch(correctionActions.undone({ pictureId: heap.id }));
    await until(() => width(first) === 200, 'the outline is followed');
    expect(followsOutline(present(first))).toBe(true);
  });

  it('leaves its original on the shelf until the last picture made of it is gone; the same after another start', async () => {
    const { jobId, heap, ids, jobs, documents } = await split();
    await documents.flush();
    await jobs.removePictures(jobId, [heap.id]);
    expect(await originals()).toContain(heap.id);
    const later = await newTab();
    expect(await (await later.jobs.original(ids[0] as string))?.text()).toContain('600 x 400');
    await later.jobs.removePictures(jobId, [ids[0] as string]);
    expect(await originals()).toContain(heap.id);
    await later.jobs.removePictures(jobId, [ids[1] as string]);
    expect(await originals()).not.toContain(heap.id);
    await later.jobs.removeJob(jobId);
    expect(await originals()).toEqual([]);
  });

  it('goes through a job file with its original in it once, and its pieces still follow', async () => {
    const { jobId, jobOf, archives, present, pictures, commit } = await split();
    const file = await archives.save(jobOf()[jobId]!);
    const copy = await archives.open(file, () => undefined);
    const ids = jobOf()[copy.id]?.pictureIds as string[];
    expect(ids.map((id) => pictures()[id]?.name)).toEqual(['before.png', 'heap.png', 'heap-1.png', 'heap-2.png', 'behind.png']);
    expect(await originals()).toHaveLength(3 + 3);
    commit(ids[1] as string, (c) => withSheet(c, { border: 'inside', inset: { value: 10, unit: 'px' } }));
    await until(() => present(ids[2] as string).crop.rect?.width === 180, 'the outline is followed');
  });
});
