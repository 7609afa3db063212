import { inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { newCorrection, readLensFile, withDelivery, withTrim, type Correction } from '@able-plumb/core';
import { Shelf } from '../shelf/shelf';
import { shelfSentence } from '../shelf/shelf-sentence';
import { DocumentKeeper } from './document-keeper';
import { LensKeeper } from './lens-keeper';
import { TabChannel } from './tab-channel';
import { correctionActions } from '../state/correction.actions';
import { jobsFeature } from '../state/jobs.reducer';
import { correctionsFeature, newHistory } from '../state/corrections.reducer';
import type { Job, Picture } from '../state/model';
import { selectPictureEntities } from '../state/selectors';
import { shelfActions } from '../state/shelf.actions';
import { FilesClient } from '../work/files-client';
import type { Inspected } from '../work/protocol';
import { StageClient } from '../work/stage-client';

/** What became of files that were to be opened. */
export interface ImportOutcome {
  readonly added: readonly Picture[];
  /** One sentence a file that was refused. */
  readonly refused: readonly string[];
}

/** Files that are looked into while others are being kept. */
const FILES_AHEAD = 2;

/** Makes jobs and takes files into them: checked, hashed and kept before they appear. */
@Injectable({ providedIn: 'root' })
export class JobKeeper {
  private readonly shelf = inject(Shelf);
  private readonly store = inject(Store);
  private readonly files = inject(FilesClient);
  private readonly stage = inject(StageClient);
  private readonly lenses = inject(LensKeeper);
  private readonly documents = inject(DocumentKeeper);
  private readonly tabs = inject(TabChannel);
  private readonly entities = this.store.selectSignal(selectPictureEntities);
  private readonly histories = this.store.selectSignal(correctionsFeature.selectHistories);
  private readonly settings = this.store.selectSignal(jobsFeature.selectSettings);

  /** Files that are being taken in, whatever is on the screen meanwhile; null while there are none. */
  readonly importing = signal<{ readonly text: string; readonly share: number } | null>(null);

  async newJob(name: string): Promise<Job> {
    const now = Date.now();
    const job: Job = { id: crypto.randomUUID(), name, createdAt: now, changedAt: now, pictureIds: [], lastPictureId: null };
    await this.shelf.saveJob(job);
    this.show(job);
    return job;
  }

  /** A job changed on the shelf: here and in other tabs it is seen as it is there. */
  private show(job: Job | null): void {
    if (!job) return;
    this.store.dispatch(shelfActions.jobSaved({ job }));
    this.tabs.tell({ kind: 'job', jobId: job.id });
  }

  /**
   * Takes files into a job in their order, those that come next being looked into meanwhile; a file that is refused stops none of the others.
   * @param onFirst told when the first picture is in
   * @param opens whether the first one is opened next: what was decoded of it is kept for that, where it comes alone
   */
  async addFiles(
    jobId: string,
    files: readonly { readonly name: string; readonly file: Blob }[],
    onFirst: () => void = () => undefined,
    opens = false,
  ): Promise<ImportOutcome> {
    const added: Picture[] = [];
    const refused: string[] = [];
    const note = (done: number): void => {
      const next = files[done];
      const text = next ? `Opening ${done + 1} of ${files.length}: ${next.name}, ${(next.file.size / 1e6).toFixed(0)} MB` : 'Opened';
      this.importing.set({ text, share: done / Math.max(1, files.length) });
    };
    note(0);
    const looked = files.map((): Promise<Inspected> | null => null);
    const look = (i: number): void => {
      const next = files[i];
      if (!next || looked[i]) return;
      const looking = this.files.inspect(next.name, next.file, opens && files.length === 1);
      // what is wrong with it is said when its turn comes
      looking.catch(() => undefined);
      looked[i] = looking;
    };
    try {
      for (const [i, { name, file }] of files.entries()) {
        // until the first one is in the page has a core for itself
        const ahead = added.length > 0 || refused.length > 0 ? FILES_AHEAD : 0;
        for (let next = i; next <= i + ahead; next += 1) look(next);
        try {
          added.push(await this.addFile(jobId, name, file, {}, looked[i]));
          if (added.length === 1) onFirst();
        } catch (error) {
          refused.push(error instanceof DOMException ? shelfSentence(error) : (error as Error).message);
        }
        looked[i] = null;
        note(added.length + refused.length);
      }
    } finally {
      this.importing.set(null);
    }
    return { added, refused };
  }

  /**
   * Takes one file into a job.
   * @param known its correction and its set, where it comes from a job file
   * @param looked what was found in it, where it was looked into before
   * @throws PictureFileError; Error when the job is gone
   */
  async addFile(
    jobId: string,
    name: string,
    file: Blob,
    known: { readonly present?: Correction; readonly set?: string | undefined } = {},
    looked: Promise<Inspected> | null = null,
  ): Promise<Picture> {
    const { info, sha256, thumbnail, decoded } = await (looked ?? this.files.inspect(name, file));
    const { width, height, format, bits, camera, lens, focal35, focalMm, orientation, croppedFrom, level, takenAt, ppi } = info;
    const picture: Picture = {
      id: crypto.randomUUID(),
      jobId,
      name,
      width,
      height,
      bytes: file.size,
      sha256,
      format,
      bits,
      camera,
      lens,
      focal35,
      focalMm,
      orientation,
      croppedFrom,
      level,
      takenAt,
      ppi,
      ...(known.set === undefined ? {} : { set: known.set }),
    };
    // a picture without any camera data is most likely a scan, but only a person can say so: it is treated as taken by a camera
    const present =
      known.present ?? this.standing(this.lenses.withFound(newCorrection({ name, width, height, sha256, focal35, level }), picture));
    fits(present, picture);
    if (!(await this.keep(picture, file, thumbnail, present))) throw new Error(`${name} could not be kept: its job was removed meanwhile.`);
    if (decoded) this.stage.keepDecoded(picture.id, decoded);
    return picture;
  }

  /** A new picture's correction: its crop keeps what will be marked, and it has the deliveries that new pictures have. */
  private standing(correction: Correction): Correction {
    return this.withStandingDeliveries(withTrim(correction, { around: 'lines' }));
  }

  withStandingDeliveries(correction: Correction): Correction {
    const { deliveries, standingDeliveries } = this.settings();
    const ids = standingDeliveries.filter((id) => deliveries.some((d) => d.id === id));
    return ids.reduce((c, id) => withDelivery(c, id, true), correction);
  }

  /** A delivery ticked for pictures, or not, each with an undo step of its own. */
  async tickDelivery(ids: readonly string[], deliveryId: string, on: boolean): Promise<void> {
    for (const { picture, correction } of await this.chosen(ids)) {
      const changed = withDelivery(correction, deliveryId, on);
      if (changed !== correction) this.store.dispatch(correctionActions.committed({ pictureId: picture.id, correction: changed }));
    }
  }

  /**
   * One picture more in the same job from the same original, which lies on the shelf once, under another name and with a correction of its
   * own.
   * @param after the picture behind which it comes
   */
  async addCopy(
    { set: _own, ...of }: Picture,
    name: string,
    present: Correction,
    { after, set }: { readonly after?: string; readonly set?: string | undefined } = {},
  ): Promise<Picture | null> {
    fits(present, of);
    const picture: Picture = {
      ...of,
      id: crypto.randomUUID(),
      name,
      original: of.original ?? of.id,
      ...(set === undefined ? {} : { set }),
    };
    return (await this.keep(picture, null, null, { ...present, picture: { ...present.picture, name } }, after)) ? picture : null;
  }

  /** Puts a picture onto the shelf and then into sight; false when its job is gone. */
  private async keep(picture: Picture, file: Blob | null, thumbnail: Blob | null, present: Correction, after?: string): Promise<boolean> {
    const history = newHistory(present);
    const job = await this.shelf.addPicture(picture.jobId, picture, file, thumbnail, history, after);
    if (!job) return false;
    this.store.dispatch(shelfActions.picturesAdded({ jobId: picture.jobId, pictures: [picture] }));
    this.store.dispatch(shelfActions.historiesLoaded({ histories: { [picture.id]: history } }));
    this.show(job);
    return true;
  }

  /**
   * Fetches the demo job from the server into a job of its own; what was refused is told with it.
   * @throws Error when the server does not answer, or not with a demo job; no half of it is left then
   */
  async openDemo(onProgress: (done: number, of: number) => void): Promise<{ readonly job: Job; readonly refused: readonly string[] }> {
    const index = (await (await fetched('index.json')).json()) as {
      name: string;
      pictures: { name: string }[];
      lenses: { name: string }[];
    };
    const known = new Set(this.lenses.profiles().map((p) => p.id));
    for (const { name } of index.lenses) {
      const profile = await readLensFile(await (await fetched(name)).text(), name, name);
      // one that is in the cabinet already may have been changed there
      if (!known.has(profile.id)) await this.lenses.save(profile);
    }
    const job = await this.newJob(index.name);
    const refused: string[] = [];
    try {
      for (const [done, { name }] of index.pictures.entries()) {
        const file = await (await fetched(name)).blob();
        refused.push(...(await this.addFiles(job.id, [{ name, file }])).refused);
        onProgress(done + 1, index.pictures.length);
      }
    } catch (error) {
      await this.removeJob(job.id);
      throw error;
    }
    return { job, refused };
  }

  /** Pictures with their committed corrections, in the order of their ids. */
  async chosen(ids: readonly string[]): Promise<readonly { readonly picture: Picture; readonly correction: Correction }[]> {
    await this.documents.loadHistories(ids);
    const [pictures, histories] = [this.entities(), this.histories()];
    return ids.flatMap((id) => {
      const [picture, history] = [pictures[id], histories[id]];
      return picture && history ? [{ picture, correction: history.present }] : [];
    });
  }

  /** The picture is the one to come back to when its job is opened. */
  async pictureOpened(picture: Picture): Promise<void> {
    const job = await this.shelf.changeJob(picture.jobId, (before) => ({ ...before, lastPictureId: picture.id }));
    if (job) this.store.dispatch(shelfActions.jobSaved({ job }));
  }

  /** The file of a picture as it was opened; null when it is lost. */
  original(pictureId: string): Promise<Blob | null> {
    return this.shelf.original(pictureId);
  }

  /** A small JPEG of a picture's original. */
  thumbnail(pictureId: string): Promise<Blob | null> {
    return this.shelf.thumbnail(pictureId);
  }

  /** Links pictures of one size into a set, or takes them out of theirs; the first one's correction holds for all. */
  async link(ids: readonly string[], linked: boolean): Promise<void> {
    const set = crypto.randomUUID();
    const changed = ids.flatMap((id): Picture[] => {
      const { set: _before, ...picture } = this.entities()[id] ?? { id: '' };
      return picture.id === '' ? [] : [{ ...(picture as Picture), ...(linked ? { set } : {}) }];
    });
    await this.shelf.savePictures(changed);
    const jobId = changed[0]?.jobId;
    if (jobId === undefined) return;
    this.store.dispatch(shelfActions.picturesAdded({ jobId, pictures: changed }));
    this.tabs.tell({ kind: 'job', jobId });
  }

  /** Takes pictures out of their job, with their corrections. */
  async removePictures(jobId: string, ids: readonly string[]): Promise<void> {
    const job = await this.shelf.removePictures(jobId, ids);
    this.documents.forget(ids);
    for (const pictureId of ids) this.store.dispatch(shelfActions.pictureRemoved({ jobId, pictureId }));
    this.show(job);
  }

  async renameJob(jobId: string, name: string): Promise<void> {
    const job = await this.shelf.changeJob(jobId, (before) => ({ ...before, name, changedAt: Date.now() }));
    this.show(job);
  }

  /** Whether the job's pictures are asked what they say as soon as they are opened. */
  async setFinds(jobId: string, finds: boolean): Promise<void> {
    this.show(await this.shelf.changeJob(jobId, (before) => ({ ...before, finds })));
  }

  async removeJob(jobId: string): Promise<void> {
    await this.shelf.removeJob(jobId);
    this.documents.forget(Object.values(this.entities()).flatMap((p) => (p?.jobId === jobId ? [p.id] : [])));
    this.tabs.tell({ kind: 'job-removed', jobId });
    this.store.dispatch(shelfActions.jobRemoved({ jobId }));
  }
}

/** @throws Error where a correction was made for a picture of another size */
function fits({ picture }: Correction, { name, width, height }: Picture): void {
  if (picture.width !== width || picture.height !== height)
    throw new Error(`The correction of ${name} was made for another size than it has.`);
}

/** A file of the demo job. */
async function fetched(name: string): Promise<Response> {
  const response = await fetch(`/demo-job/${name}`);
  if (!response.ok) throw new Error(`the server has no ${name} (${response.status})`);
  return response;
}
