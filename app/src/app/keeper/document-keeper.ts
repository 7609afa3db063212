import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { newCorrection, type Correction } from '@able-plumb/core';
import { Shelf, type HistoryKept } from '../shelf/shelf';
import { shelfSentence } from '../shelf/shelf-sentence';
import { correctionsFeature, newHistory } from '../state/corrections.reducer';
import type { History, Picture, Settings } from '../state/model';
import { SETTINGS_DOCUMENT } from '../state/saving.reducer';
import { selectJobEntities, selectPictureEntities } from '../state/selectors';
import { shelfActions } from '../state/shelf.actions';
import { TabChannel } from './tab-channel';
import { WriteQueue } from './write-queue';

/**
 * The newest document, some kilobytes, is written with nearly every change; its history, which may be some megabytes after a long day, less
 * often, so that the writes of a held key do not wait for each other. ms
 */
const PRESENT_GAP_MS = 20;
const HISTORY_GAP_MS = 150;
/** Newest documents in the queue, before the picture's id. */
const PRESENT = 'present ';

/** The time of a job's last change is kept this long after it, ms. */
const CHANGED_MS = 300;

/**
 * Documents on the shelf: what is done to one is written through the queue, and what another tab wrote is read again. One way: it is
 * dispatched, then written, then told to be saved.
 */
@Injectable({ providedIn: 'root' })
export class DocumentKeeper {
  private readonly store = inject(Store);
  private readonly shelf = inject(Shelf);
  private readonly tabs = inject(TabChannel);
  private readonly entities = this.store.selectSignal(selectPictureEntities);
  private readonly histories = this.store.selectSignal(correctionsFeature.selectHistories);
  private readonly jobs = this.store.selectSignal(selectJobEntities);
  /** Versions that lie on the shelf, as this tab last read or wrote them. */
  private readonly known = new Map<string, number>();
  private unsavedSettings: Partial<Settings> = {};
  private settingsWritten: Promise<void> = Promise.resolve();
  /** Jobs that no other tab writes. */
  private readonly owned = new Set<string>();
  private readonly changed = new Map<string, ReturnType<typeof setTimeout>>();

  private readonly queue = new WriteQueue((document, told) => {
    // a document counts as saved with its history
    if (document.startsWith(PRESENT)) return;
    this.store.dispatch(
      told.saved ? shelfActions.saved({ document }) : shelfActions.savingFailed({ document, message: shelfSentence(told.error) }),
    );
  });

  /** Brings what is on the shelf into sight. */
  async load(): Promise<void> {
    try {
      const { notices, ...contents } = await this.shelf.load();
      this.store.dispatch(shelfActions.loaded(contents));
      for (const sentence of notices) this.notice(sentence);
    } catch (error) {
      this.store.dispatch(shelfActions.loaded({ jobs: [], pictures: [], profiles: [], settings: null }));
      this.notice(`What is kept in this browser cannot be read (${(error as Error).message}). It is not touched; load the page again.`);
    }
  }

  /** A picture's correction changed. */
  keepHistory(pictureId: string): void {
    const jobId = this.entities()[pictureId]?.jobId;
    // gone meanwhile: there is nothing to wait for
    if (jobId === undefined) return this.store.dispatch(shelfActions.saved({ document: pictureId }));
    if (this.owned.has(jobId))
      this.queue.put(`${PRESENT}${pictureId}`, PRESENT_GAP_MS, async () => {
        const history = this.histories()[pictureId];
        if (history && this.entities()[pictureId]) await this.shelf.savePresent(pictureId, history);
      });
    this.queue.put(pictureId, HISTORY_GAP_MS, async (hurry) => {
      const [picture, history] = [this.entities()[pictureId], this.histories()[pictureId]];
      // removed meanwhile, with everything of it
      if (!picture || !history) return;
      const known = hurry || this.owned.has(picture.jobId) ? null : (this.known.get(pictureId) ?? history.version);
      this.noteKept(picture, history, await this.shelf.saveHistory(picture.jobId, pictureId, history, known));
    });
    this.noteChanged(jobId);
  }

  private noteKept(picture: Picture, written: History, kept: HistoryKept): void {
    switch (kept.kind) {
      case 'kept':
        this.known.set(picture.id, written.version);
        this.tabs.tell({ kind: 'history', jobId: picture.jobId, pictureId: picture.id });
        return;
      case 'gone':
        void this.follow(picture.jobId);
        return;
      case 'newer':
        this.known.set(picture.id, kept.history.version);
        this.store.dispatch(shelfActions.historyReplaced({ pictureId: picture.id, history: { ...kept.history, step: null } }));
        this.notice(
          `${picture.name} was changed in another tab meanwhile: what that tab did is shown, and the last change here is not kept. Do it again where it is wanted.`,
        );
    }
  }

  /** Whether this tab alone writes a job. */
  owns(jobId: string, owned: boolean): void {
    if (owned) this.owned.add(jobId);
    else this.owned.delete(jobId);
  }

  /** When a job was changed is noted on the shelf now and then. */
  private noteChanged(jobId: string): void {
    if (this.changed.has(jobId)) return;
    const note = async (): Promise<void> => {
      this.changed.delete(jobId);
      const job = await this.shelf.changeJob(jobId, (before) => ({ ...before, changedAt: Date.now() })).catch(() => null);
      if (job) this.store.dispatch(shelfActions.jobSaved({ job }));
    };
    this.changed.set(
      jobId,
      setTimeout(() => void note(), CHANGED_MS),
    );
  }

  /** Settings changed. */
  keepSettings(change: Partial<Settings>): void {
    this.unsavedSettings = { ...this.unsavedSettings, ...change };
    this.queue.put(SETTINGS_DOCUMENT, PRESENT_GAP_MS, () => {
      // one after the other: a change that failed goes along with the next
      this.settingsWritten = this.settingsWritten.catch(() => undefined).then(() => this.writeSettings());
      return this.settingsWritten;
    });
  }

  private async writeSettings(): Promise<void> {
    const unsaved = this.unsavedSettings;
    this.unsavedSettings = {};
    try {
      await this.shelf.changeSettings(unsaved);
    } catch (error) {
      this.unsavedSettings = { ...unsaved, ...this.unsavedSettings };
      throw error;
    }
    this.tabs.tell({ kind: 'settings' });
  }

  /** Writes at once what waits. */
  flush(hurry = false): Promise<void> {
    return this.queue.flush(hurry);
  }

  /** The histories of pictures, from the shelf where they are not known yet. */
  async loadHistories(ids: readonly string[]): Promise<void> {
    const known = this.histories();
    await this.readHistories(ids.filter((id) => !known[id]));
  }

  private async readHistories(ids: readonly string[]): Promise<void> {
    if (ids.length === 0) return;
    const found = await this.shelf.histories(ids);
    const histories: Record<string, History> = {};
    const damaged: string[] = [];
    for (const id of ids) {
      const picture = this.entities()[id];
      const read = found[id];
      if (!picture) continue;
      const history = read?.history ?? newHistory(blank(picture));
      if (read?.damaged || !read?.history) damaged.push(picture.name);
      // a change that still waits to be written is newer than what was read
      if (!this.histories()[id] || history.version > (this.histories()[id]?.version ?? 0)) {
        histories[id] = { ...history, step: null };
        this.known.set(id, history.version);
      }
    }
    this.store.dispatch(shelfActions.historiesLoaded({ histories }));
    if (damaged.length > 0)
      this.notice(
        `What was set for ${damaged.join(', ')} cannot be read whole from this browser's storage: the last state that can be read is shown, or none. The ${damaged.length === 1 ? 'picture itself is' : 'pictures themselves are'} safe.`,
      );
  }

  /** Reads a job again: another tab may have written it. */
  async follow(jobId: string): Promise<void> {
    const found = await this.shelf.job(jobId);
    if (!found) return this.removedElsewhere(jobId);
    this.store.dispatch(shelfActions.jobFollowed(found));
  }

  /** Reads a job again with the histories that are known here. */
  async followWhole(jobId: string): Promise<void> {
    await this.follow(jobId);
    const known = this.histories();
    await this.readHistories(Object.values(this.entities()).flatMap((p) => (p?.jobId === jobId && known[p.id] ? [p.id] : [])));
  }

  /** Another tab wrote one history. */
  async followHistory(pictureId: string): Promise<void> {
    if (this.histories()[pictureId]) await this.readHistories([pictureId]);
  }

  async followSettings(): Promise<void> {
    this.store.dispatch(shelfActions.settingsFollowed({ settings: { ...(await this.shelf.settings()), ...this.unsavedSettings } }));
  }

  async followProfiles(): Promise<void> {
    this.store.dispatch(shelfActions.profilesFollowed({ profiles: await this.shelf.profiles() }));
  }

  /** A job that this tab knew is gone from the shelf. */
  removedElsewhere(jobId: string): void {
    const job = this.jobs()[jobId];
    if (!job) return;
    this.forget(job.pictureIds);
    this.store.dispatch(shelfActions.jobRemoved({ jobId }));
    this.notice(`The job ${job.name} was removed in another tab. Files on your disk are untouched.`);
  }

  /** Pictures are gone, and what was to be written of them with them. */
  forget(pictureIds: readonly string[]): void {
    for (const document of pictureIds) {
      this.queue.drop(document);
      this.queue.drop(`${PRESENT}${document}`);
      this.known.delete(document);
      this.store.dispatch(shelfActions.saved({ document }));
    }
  }

  notice(sentence: string): void {
    this.store.dispatch(shelfActions.noticed({ sentence }));
  }
}

/** The correction of a picture whose own cannot be read. */
const blank = ({ name, width, height, sha256, focal35, level }: Picture): Correction =>
  newCorrection({ name, width, height, sha256, focal35, level });
