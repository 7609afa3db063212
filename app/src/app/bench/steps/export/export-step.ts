import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { Store } from '@ngrx/store';
import { NAME_WORDS, unknownWord } from '@able-plumb/core';
import { ExportClient } from '../../../work/export-client';
import { ExportQueue } from '../../../export/export-queue';
import { beforehand, plannedByDeliveries, plannedByForm, type ChosenPicture, type PlannedFile } from '../../../export/export-plan';
import { canWriteFolders, chooseTarget } from '../../../export/export-target';
import { QueueCard } from '../../../export/queue-card';
import { JobKeeper } from '../../../keeper/job-keeper';
import { contactFeature } from '../../../state/contact.reducer';
import { shelfActions } from '../../../state/shelf.actions';
import { Segments, type Segment } from '../../../ui/segments';
import { BenchSwitches } from '../../session/bench-switches';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { ExportDeliveries } from './export-deliveries';
import { ExportFiles } from './export-files';
import { ExportFormatFields } from './export-format';
import { ExportSize } from './export-size';
import { TextField } from '../../../ui/text-field';

type What = 'picture' | 'selection' | 'job';
type Way = 'form' | 'deliveries';

/** Export: this picture, the selection or the job; by the form or by deliveries; name, format, size; where to; progress and cancel. */
@Component({
  selector: 'ap-export-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [ExportDeliveries, ExportFiles, ExportFormatFields, ExportSize, MatButton, QueueCard, Segments, TextField],
  templateUrl: './export-step.html',
  styleUrl: './export.scss',
})
export class ExportStep {
  private readonly store = inject(Store);
  private readonly keeper = inject(JobKeeper);
  protected readonly queue = inject(ExportQueue);
  protected readonly session = inject(PictureSession);
  private readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  private readonly selection = this.store.selectSignal(contactFeature.selectSelection);

  protected readonly what = signal<What>('picture');
  protected readonly way = signal<Way>('form');
  protected readonly refused = signal<string | null>(null);
  protected readonly words = NAME_WORDS;

  /** Selected pictures of this job. */
  private readonly selected = computed(() => this.selection().filter((id) => this.session.job()?.pictureIds.includes(id)));
  protected readonly whats = computed<readonly Segment[]>(() => [
    { value: 'picture', label: 'this picture' },
    ...(this.selected().length > 0 ? [{ value: 'selection', label: `${this.selected().length} selected` }] : []),
    { value: 'job', label: `the job (${this.session.job()?.pictureIds.length ?? 0})` },
  ]);
  protected readonly ways: readonly Segment[] = [
    { value: 'form', label: 'as set here' },
    { value: 'deliveries', label: 'by deliveries', hint: 'Each picture in all of its deliveries' },
  ];
  protected readonly targets: readonly Segment[] = [
    { value: 'zip', label: 'one zip' },
    { value: 'folder', label: 'a folder', hint: 'Asks for a folder; nothing in it is overwritten' },
  ];
  protected readonly canFolders = canWriteFolders();
  protected readonly target = computed(() => (this.canFolders ? this.switches.settings().exportTo : 'zip'));
  protected readonly pattern = computed(() => this.switches.settings().exportChoice.pattern);
  protected readonly blocked = computed(() => (this.what() === 'picture' ? (this.picture.shown()?.trouble ?? null) : null));

  /** What would be written of this picture now. */
  private readonly here = computed<readonly PlannedFile[]>(() => {
    const [picture, correction, job] = [this.session.picture(), this.session.own(), this.session.job()];
    return picture && correction && job ? this.planned([{ picture, correction }]) : [];
  });
  protected readonly names = computed(() => this.here().map((file) => ('trouble' in file ? file.trouble : `${file.stem}.${file.ending}`)));
  protected readonly several = computed(() => this.what() !== 'picture' || this.here().length > 1);
  protected readonly nothing = computed(() => this.what() === 'picture' && this.here().length === 0);

  /** What an export of several pictures would write, in words; empty for one. */
  protected readonly beforehand = signal('');
  private counting = 0;

  constructor() {
    // workers are there when Export is pressed
    inject(ExportClient).warm();
    effect(() => {
      const [what, way, job] = [this.what(), this.way(), this.session.job()];
      const ids = what === 'job' ? (job?.pictureIds ?? []) : what === 'selection' ? this.selected() : [];
      // ticks that change are counted anew
      this.session.own();
      this.switches.settings();
      untracked(() => void this.count(ids, way));
    });
    effect(() => {
      // another picture: what was said of the one before goes
      this.session.picture();
      untracked(() => this.queue.clear());
      this.refused.set(null);
    });
  }

  protected choose(what: string): void {
    this.what.set(what as What);
  }

  protected readonly checkPattern = (text: string): string | null => {
    const unknown = unknownWord(text.trim());
    if (unknown !== null) return `There is no {${unknown}} for a name.`;
    return text.trim() === '' ? 'A name is needed.' : null;
  };

  protected setPattern(text: string): void {
    this.changeChoice({ pattern: text.trim() });
  }

  private changeChoice(change: { pattern: string }): void {
    this.store.dispatch(
      shelfActions.settingsChanged({ change: { exportChoice: { ...this.switches.settings().exportChoice, ...change } } }),
    );
  }

  protected setTarget(to: string): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { exportTo: to === 'folder' ? 'folder' : 'zip' } }));
  }

  private planned(pictures: readonly ChosenPicture[]): PlannedFile[] {
    const { exportChoice, deliveries } = this.switches.settings();
    const job = this.session.job();
    if (!job) return [];
    return this.way() === 'form' ? plannedByForm(job, pictures, exportChoice) : plannedByDeliveries(job, pictures, deliveries);
  }

  private async count(ids: readonly string[], way: Way): Promise<void> {
    if (ids.length === 0) {
      this.counting += 1;
      this.beforehand.set('');
      return;
    }
    const asked = (this.counting += 1);
    const chosen = await this.keeper.chosen(ids);
    // something else was chosen meanwhile
    if (asked === this.counting) this.beforehand.set(beforehand(chosen, this.switches.settings().deliveries, way));
  }

  async run(): Promise<void> {
    const job = this.session.job();
    const picture = this.session.picture();
    if (!job || !picture || this.queue.running() || this.blocked() || this.nothing()) return;
    this.refused.set(null);
    try {
      const chosen = await chooseTarget(this.what() !== 'picture' || this.way() === 'deliveries', this.target(), job.name);
      if (!chosen) return;
      const ids = this.what() === 'job' ? job.pictureIds : this.what() === 'selection' ? this.selected() : [picture.id];
      const files = this.what() === 'picture' ? this.here() : this.planned(await this.keeper.chosen(ids));
      if (files.length === 0) {
        this.refused.set('None of these pictures has a delivery. Choose deliveries for them, or export as set here.');
        return;
      }
      await this.queue.run(files, await chosen(files.length));
    } catch (error) {
      this.refused.set(`${(error as Error).message} Nothing was written.`);
    }
  }

  cancel(): void {
    this.queue.cancel();
  }
}
