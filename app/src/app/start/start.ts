import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatProgressBar } from '@angular/material/progress-bar';
import { MatTooltip } from '@angular/material/tooltip';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { safeName } from '@able-plumb/core';
import { ArchiveKeeper } from '../keeper/archive-keeper';
import { JobClaims } from '../keeper/job-claims';
import { JobKeeper } from '../keeper/job-keeper';
import { jobName } from '../keeper/job-name';
import { Scanning } from '../scan/scanning';
import { jobsFeature } from '../state/jobs.reducer';
import type { Job } from '../state/model';
import { selectJobs, selectPictureEntities } from '../state/selectors';
import { shelfActions } from '../state/shelf.actions';
import { Dialogs } from '../ui/dialogs';
import { droppedFiles, openedFiles, type OpenedFile } from '../ui/dropped-files';
import { Icon } from '../ui/icon';
import { NameMark } from '../ui/name-mark';
import { saveFile } from '../ui/save-file';
import { TextField } from '../ui/text-field';
import { FilePick, PICTURES } from '../ui/file-pick';
import { whenQuiet } from '../ui/when-quiet';
import { FilesClient } from '../work/files-client';
import { ThumbnailClient } from '../work/thumbnail-client';
import { ThemeButton } from '../theme-button';

const THUMBNAILS_A_JOB = 4;
/** So many files are many: their contact sheet is what is wanted, not the first of them. */
const MANY = 12;
/** What a job is called until its pictures are there. */
const UNNAMED = 'New job';

/** Start: jobs as cards, new pictures, the demo job, storage. */
@Component({
  selector: 'ap-start',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FilePick, Icon, MatButton, MatProgressBar, MatTooltip, NameMark, RouterLink, TextField, ThemeButton],
  templateUrl: './start.html',
  styleUrl: './start.scss',
  host: {
    '(document:dragover)': 'onDragOver($event)',
    '(document:dragleave)': 'onDragLeave($event)',
    '(document:drop)': 'onDrop($event)',
    '(document:paste)': 'onPaste($event)',
  },
})
export class Start {
  private readonly store = inject(Store);
  private readonly keeper = inject(JobKeeper);
  private readonly archives = inject(ArchiveKeeper);
  private readonly scanning = inject(Scanning);
  private readonly router = inject(Router);
  private readonly dialogs = inject(Dialogs);

  private readonly jobs = this.store.selectSignal(selectJobs);
  private readonly entities = this.store.selectSignal(selectPictureEntities);
  protected readonly loaded = this.store.selectSignal(jobsFeature.selectLoaded);

  protected readonly dropping = signal(false);
  private readonly ownWork = signal<{ readonly text: string; readonly share: number } | null>(null);
  protected readonly work = computed(() => this.ownWork() ?? this.keeper.importing());
  /** What can be opened: pictures, and saved jobs. */
  protected readonly opened = `${PICTURES},.zip,application/zip`;
  private gone = false;
  protected readonly refused = signal<readonly string[]>([]);
  protected readonly storage = signal('');
  protected readonly renaming = signal<string | null>(null);
  private readonly thumbnails = signal<Readonly<Record<string, string>>>({});

  protected readonly cards = computed(() =>
    this.jobs().map((job) => ({
      job,
      line: `${job.pictureIds.length} ${job.pictureIds.length === 1 ? 'picture' : 'pictures'}, ${new Date(job.changedAt).toLocaleDateString(undefined, { day: 'numeric', month: 'long', year: 'numeric' })}`,
      pictures: job.pictureIds
        .slice(0, THUMBNAILS_A_JOB)
        .map((id) => ({ id, name: this.entities()[id]?.name ?? '', url: this.thumbnails()[id] ?? null })),
    })),
  );

  constructor() {
    effect(() => {
      const wanted = this.jobs().flatMap((job) => job.pictureIds.slice(0, THUMBNAILS_A_JOB));
      void this.loadThumbnails(wanted);
    });
    inject(DestroyRef).onDestroy(() => {
      this.gone = true;
      Object.values(this.thumbnails()).forEach((url) => URL.revokeObjectURL(url));
    });
    // no job is shown here: another tab may write it
    void inject(JobClaims).leave();
    void this.readStorage();
    const [files, small] = [inject(FilesClient), inject(ThumbnailClient)];
    whenQuiet(() => {
      if (this.gone) return;
      files.warm();
      small.warm();
    });
  }

  /** What was refused; where this screen was left meanwhile it is said on the one that is shown. */
  private refuse(sentences: readonly string[]): void {
    if (this.gone) for (const sentence of sentences) this.store.dispatch(shelfActions.noticed({ sentence }));
    else this.refused.update((before) => [...before, ...sentences]);
  }

  private readonly asked = new Set<string>();

  private async loadThumbnails(ids: readonly string[]): Promise<void> {
    for (const id of ids) {
      if (this.asked.has(id)) continue;
      this.asked.add(id);
      const blob = await this.keeper.thumbnail(id);
      if (blob && !this.gone) this.thumbnails.update((known) => ({ ...known, [id]: URL.createObjectURL(blob) }));
    }
  }

  private async readStorage(): Promise<void> {
    const { usage = 0, quota = 0 } = await navigator.storage.estimate();
    const size = (bytes: number): string => (bytes > 1e9 ? `${(bytes / 1e9).toFixed(1)} GB` : `${(bytes / 1e6).toFixed(0)} MB`);
    const kept = await navigator.storage.persisted?.();
    this.storage.set(
      `${size(usage)} used in this browser, ${size(Math.max(0, quota - usage))} left; ${kept ? 'kept until you remove it' : 'the browser may clear it if the disk is full: save jobs that matter as files'}`,
    );
  }

  protected openJob(job: Job): void {
    const id = job.lastPictureId && job.pictureIds.includes(job.lastPictureId) ? job.lastPictureId : job.pictureIds[0];
    if (id) void this.router.navigate(['/bench', id]);
    else this.refused.set([`${job.name} holds no pictures yet. Open or drop some to add them to it.`]);
  }

  protected async openDemo(): Promise<void> {
    if (this.work()) return;
    this.refused.set([]);
    this.ownWork.set({ text: 'Fetching the demo job', share: 0 });
    this.askToKeep();
    try {
      const { refused } = await this.keeper.openDemo((done, of) =>
        this.ownWork.set({ text: `Demo job: ${done} of ${of} pictures`, share: done / of }),
      );
      this.refuse(refused);
    } catch (error) {
      this.refused.set([
        `The demo job could not be fetched: ${(error as Error).message}. Is the server still running? Your own jobs are safe.`,
      ]);
    } finally {
      this.ownWork.set(null);
      void this.readStorage();
    }
  }

  protected async scan(): Promise<void> {
    if (this.work()) return;
    this.refused.set([]);
    this.askToKeep();
    const name = jobName(
      null,
      [],
      this.jobs().map((job) => job.name),
    );
    try {
      this.refuse((await this.scanning.into(null, name)) ?? []);
    } catch (error) {
      this.refuse([`What was scanned could not be kept: ${(error as Error).message}`]);
    }
  }

  protected pick(picked: readonly File[], jobId?: string): void {
    void this.take(openedFiles(picked), jobId);
  }

  /** Takes files into a job, a new one by default; the first picture opens, and of many the contact sheet as soon as there is one. */
  private async take(files: readonly OpenedFile[], jobId?: string): Promise<void> {
    if (files.length === 0 || this.work()) return;
    this.refused.set([]);
    const archives = files.filter(({ name }) => /\.zip$/i.test(name));
    await this.openArchives(archives);
    await this.takePictures(
      files.filter((file) => !archives.includes(file)),
      jobId,
    );
  }

  /** Asked when there is something to keep: without it a browser may clear what it likes when the disk is full. */
  private askToKeep(): void {
    void navigator.storage.persist?.();
  }

  private async takePictures(files: readonly OpenedFile[], jobId?: string): Promise<void> {
    if (files.length === 0) return;
    this.askToKeep();
    try {
      const target = jobId ?? (await this.keeper.newJob(UNNAMED)).id;
      const onFirst = (): void => {
        // many are seen coming in
        if (files.length >= MANY && !this.gone) void this.router.navigate(['/job', target]);
      };
      const { added, refused } = await this.keeper.addFiles(target, files, onFirst, true);
      this.refuse(refused);
      if (added.length === 0 && !jobId) await this.keeper.removeJob(target);
      else if (!jobId && this.jobs().find((job) => job.id === target)?.name === UNNAMED) {
        // nobody has named it while its pictures came
        const others = this.jobs().flatMap((job) => (job.id === target ? [] : [job.name]));
        await this.keeper.renameJob(target, jobName(files[0]?.folder ?? null, added, others));
      }
      const first = added[0];
      // whoever went on to something else meanwhile stays there
      if (first && this.refused().length === 0 && !this.gone) void this.router.navigate(['/bench', first.id]);
    } catch (error) {
      this.refuse([(error as Error).message]);
    } finally {
      void this.readStorage();
    }
  }

  private async openArchives(files: readonly { readonly name: string; readonly file: Blob }[]): Promise<void> {
    for (const { name, file } of files) {
      try {
        await this.archives.open(file, (text, share) => this.ownWork.set({ text: `${text}: ${name}`, share }));
      } catch (error) {
        this.refuse([`${name} was not opened. ${(error as Error).message}`]);
      }
    }
    this.ownWork.set(null);
    void this.readStorage();
  }

  protected async save(job: Job): Promise<void> {
    if (this.work()) return;
    this.refused.set([]);
    this.ownWork.set({ text: `Saving ${job.name}`, share: 0 });
    try {
      saveFile(await this.archives.save(job), `${safeName(job.name) || 'job'}.job.zip`);
    } catch (error) {
      this.refused.set([(error as Error).message]);
    } finally {
      this.ownWork.set(null);
    }
  }

  protected async remove(job: Job): Promise<void> {
    const sure = await this.dialogs.confirm({
      title: `Remove ${job.name}?`,
      text: `Its ${job.pictureIds.length} pictures and their corrections go from this browser and cannot be brought back. Files on your disk are untouched.`,
      yes: 'Remove the job',
    });
    if (sure) void this.keeper.removeJob(job.id).then(() => this.readStorage());
  }

  protected readonly named = (text: string): string | null => (text.trim() === '' ? 'A job needs a name.' : null);

  protected rename(job: Job, name: string): void {
    void this.keeper.renameJob(job.id, name.trim());
  }

  protected onDragOver(event: DragEvent): void {
    if (!event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    this.dropping.set(true);
  }

  protected onDragLeave(event: DragEvent): void {
    if (event.relatedTarget === null) this.dropping.set(false);
  }

  protected onDrop(event: DragEvent): void {
    event.preventDefault();
    this.dropping.set(false);
    void droppedFiles(event).then(
      (files) => this.take(files),
      (error: Error) => this.refuse([error.message]),
    );
  }

  protected onPaste(event: ClipboardEvent): void {
    const files = Array.from(event.clipboardData?.files ?? []);
    void this.take(files.map((file) => ({ name: file.name || 'pasted.png', file, folder: null })));
  }
}
