import { fileOf, openTab, seeded, until, wait } from '../../testing/ground';
import { openDB } from 'idb';
import { Store } from '@ngrx/store';
import { describe, expect, it } from 'vitest';
import { withRollAdjust } from '@able-plumb/core';
import { correctionActions } from '../state/correction.actions';
import { correctionsFeature } from '../state/corrections.reducer';
import { jobsFeature } from '../state/jobs.reducer';
import { savingFeature } from '../state/saving.reducer';
import { DocumentKeeper } from './document-keeper';
import { JobClaims } from './job-claims';
import { JobKeeper } from './job-keeper';

/** Seconds of random work; longer on demand. */
const SECONDS = Number(process.env['TWO_TABS_SECONDS'] ?? 4);

function newTab() {
  const tab = openTab();
  const store = tab.get(Store);
  const histories = store.selectSignal(correctionsFeature.selectHistories);
  return {
    documents: tab.get(DocumentKeeper),
    claims: tab.get(JobClaims),
    jobs: tab.get(JobKeeper),
    histories,
    unsaved: store.selectSignal(savingFeature.selectUnsaved),
    notices: store.selectSignal(jobsFeature.selectNotices),
    rollOf: (id: string) => histories()[id]?.present.stance.adjust.roll as number,
    commit: (id: string, deg: number) => {
      const present = histories()[id]?.present;
      if (present) store.dispatch(correctionActions.committed({ pictureId: id, correction: withRollAdjust(present, deg) }));
    },
  };
}

describe('two tabs', () => {
  it('a job is written by the tab that shows it first, and by the other once it is handed over, left or closed', async () => {
    const [one, two] = [newTab(), newTab()];
    await one.documents.load();
    const job = await one.jobs.newJob('Tower');
    const { added } = await one.jobs.addFiles(job.id, [{ name: 'a.png', file: fileOf({ width: 600, height: 400 }) }]);
    const id = added[0]?.id as string;
    await two.documents.load();
    await one.claims.claim(job.id);
    await two.claims.claim(job.id);
    await two.documents.loadHistories([id]);
    expect([one.claims.elsewhere(), two.claims.elsewhere()]).toEqual([false, true]);
    one.commit(id, 1);
    await two.claims.takeOver();
    expect([one.claims.elsewhere(), two.claims.elsewhere()]).toEqual([true, false]);
    // what was done just before went along
    expect(two.rollOf(id)).toBe(1);
    two.commit(id, 2);
    await two.claims.leave();
    await until(() => !one.claims.elsewhere(), 'the first has it again');
    expect(one.rollOf(id)).toBe(2);
    await one.claims.leave();
  });

  it('random work in both: no change is lost, none is made twice, and both show the same', async () => {
    const tabs = [newTab(), newTab()];
    const [first] = tabs as [ReturnType<typeof newTab>];
    await first.documents.load();
    const pictures: { readonly jobId: string; readonly id: string }[] = [];
    for (const name of ['Tower', 'Hall', 'Gallery']) {
      const job = await first.jobs.newJob(name);
      const { added } = await first.jobs.addFiles(job.id, [{ name: 'a.png', file: fileOf({ width: 600, height: 400 }) }]);
      pictures.push({ jobId: job.id, id: added[0]?.id as string });
    }
    await tabs[1]?.documents.load();
    for (const tab of tabs) await tab.documents.loadHistories(pictures.map(({ id }) => id));
    // each change adds a hundredth of a degree: the sum tells whether one is lost or made twice
    const made = new Map(pictures.map(({ id }) => [id, 0]));
    const work = async (tab: ReturnType<typeof newTab>, seed: number): Promise<void> => {
      const random = seeded(seed);
      const until = performance.now() + SECONDS * 1000;
      while (performance.now() < until) {
        const { jobId, id } = pictures[Math.floor(random() * pictures.length)] as (typeof pictures)[number];
        await tab.claims.claim(jobId);
        if (tab.claims.elsewhere()) await tab.claims.takeOver();
        for (let i = 0; i < 6 && !tab.claims.elsewhere(); i += 1) {
          tab.commit(id, Math.round((tab.rollOf(id) + 0.01) * 100) / 100);
          made.set(id, (made.get(id) ?? 0) + 1);
          await wait(random() * 30);
        }
        if (random() < 0.2) await tab.claims.leave();
      }
    };
    await Promise.all(tabs.map((tab, i) => work(tab, 11 + i)));
    await until(() => tabs.every((tab) => tab.unsaved() === 0), 'saved');
    const db = await openDB('able-plumb', 3);
    for (const { id } of pictures) {
      const stored = (await db.get('histories', id)) as { version: number; present: { stance: { adjust: { roll: number } } } };
      expect(stored.version).toBe(made.get(id));
      expect(stored.present.stance.adjust.roll).toBeCloseTo((made.get(id) ?? 0) / 100, 6);
      await until(() => tabs.every((tab) => tab.histories()[id]?.version === stored.version), 'the same in both');
      for (const tab of tabs) expect(tab.histories()[id]?.present).toEqual(stored.present);
    }
    expect(tabs.flatMap((tab) => tab.notices())).toEqual([]);
    expect([...made.values()].every((n) => n > 5)).toBe(true);
  });
});
