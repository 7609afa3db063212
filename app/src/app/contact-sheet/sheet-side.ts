import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatProgressBar } from '@angular/material/progress-bar';
import { MatTooltip } from '@angular/material/tooltip';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { SUGGESTION_NAMES, type Copyable, type SuggestionKind } from '@able-plumb/core';
import { ExportQueue } from '../export/export-queue';
import { beforehand, plannedByDeliveries, plannedByForm } from '../export/export-plan';
import { canWriteFolders, chooseTarget } from '../export/export-target';
import { QueueCard } from '../export/queue-card';
import { JobKeeper } from '../keeper/job-keeper';
import { jobsFeature } from '../state/jobs.reducer';
import { Dialogs } from '../ui/dialogs';
import { Icon } from '../ui/icon';
import { Segments, type Segment } from '../ui/segments';
import { NumberField } from '../ui/number-field';
import { SelectField } from '../ui/select-field';
import { SheetFinding } from './sheet-finding';
import { SheetModel } from './sheet-model';

const COPYABLES: readonly { readonly value: Copyable; readonly name: string }[] = [
  { value: 'lens', name: 'lens and focal length' },
  { value: 'stance', name: 'stance' },
  { value: 'ease', name: 'easing' },
  { value: 'crop', name: 'crop' },
  { value: 'deliveries', name: 'deliveries' },
];

/** What can be done with the selected pictures: turn, copy, link, export, remove. */
@Component({
  selector: 'ap-sheet-side',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatButton, MatCheckbox, MatIconButton, MatProgressBar, MatTooltip, NumberField, QueueCard, Segments, SelectField],
  templateUrl: './sheet-side.html',
  styleUrl: './sheet-side.scss',
  host: { role: 'complementary', 'aria-label': 'Selected pictures' },
})
export class SheetSide {
  private readonly store = inject(Store);
  private readonly keeper = inject(JobKeeper);
  private readonly dialogs = inject(Dialogs);
  private readonly router = inject(Router);
  protected readonly queue = inject(ExportQueue);
  protected readonly model = inject(SheetModel);
  protected readonly finding = inject(SheetFinding);
  protected readonly kinds = (Object.keys(SUGGESTION_NAMES) as SuggestionKind[]).map((value) => ({ value, name: SUGGESTION_NAMES[value] }));
  /** How many of the selected pictures have answered. */
  protected readonly asked = computed(() => this.finding.sorted().sure.length + this.finding.sorted().rest.length);
  private readonly settings = this.store.selectSignal(jobsFeature.selectSettings);

  protected readonly copyables = COPYABLES;
  protected readonly copied = signal<readonly Copyable[]>(['stance']);
  protected readonly way = signal<'form' | 'deliveries'>('form');
  protected readonly target = signal<'zip' | 'folder'>('zip');
  protected readonly ways: readonly Segment[] = [
    { value: 'form', label: 'as set at Export' },
    { value: 'deliveries', label: 'by deliveries' },
  ];
  protected readonly targets: readonly Segment[] = [
    { value: 'zip', label: 'one zip' },
    { value: 'folder', label: 'a folder', hint: 'Asks for a folder; nothing in it is overwritten' },
  ];
  protected readonly canFolders = canWriteFolders();
  protected readonly others = computed(() => this.model.selection().length - 1);

  /** What an export of the selection would write, in words. */
  protected readonly beforehand = signal('');

  constructor() {
    effect((onCleanup) => {
      let stale = false;
      onCleanup(() => (stale = true));
      const [ids, way, { deliveries }] = [this.model.selection(), this.way(), this.settings()];
      // ticks that change are counted anew
      this.model.shown();
      untracked(() => void this.keeper.chosen(ids).then((chosen) => stale || this.beforehand.set(beforehand(chosen, deliveries, way))));
    });
    // what was exported elsewhere is not said again here
    this.queue.clear();
  }

  protected choose(what: Copyable, on: boolean): void {
    this.copied.update((all) => (on ? [...all, what] : all.filter((w) => w !== what)));
  }

  protected chooseKind(kind: string): void {
    this.finding.kind.set(kind as SuggestionKind);
  }

  /** The first that was left, on the bench. */
  protected openRest(): void {
    const [id] = this.finding.sorted().rest;
    if (id !== undefined) void this.router.navigate(['/bench', id]);
  }

  protected openFirst(): void {
    const id = this.model.first()?.id;
    if (id !== undefined) void this.router.navigate(['/bench', id]);
  }

  protected splitFirst(): void {
    const id = this.model.first()?.id;
    if (id !== undefined) void this.router.navigate(['/sheet', id]);
  }

  protected async run(): Promise<void> {
    const job = this.model.job();
    if (!job || this.queue.running()) return;
    this.model.said.set(null);
    try {
      // in the order of the job, whatever they were selected in
      const selection = new Set(this.model.selection());
      const target = await chooseTarget(selection.size > 1 || this.way() === 'deliveries', this.target(), job.name);
      if (!target) return;
      const chosen = await this.keeper.chosen(job.pictureIds.filter((id) => selection.has(id)));
      const { exportChoice, deliveries } = this.settings();
      const files = this.way() === 'form' ? plannedByForm(job, chosen, exportChoice) : plannedByDeliveries(job, chosen, deliveries);
      if (files.length === 0) {
        this.model.said.set({ text: 'None of these pictures has a delivery. Copy deliveries to them, or export as set.', trouble: true });
        return;
      }
      await this.queue.run(files, await target(files.length));
    } catch (error) {
      this.model.said.set({ text: `${(error as Error).message} Nothing was written.`, trouble: true });
    }
  }

  protected async remove(): Promise<void> {
    // those that were asked about, whatever is selected meanwhile
    const ids = this.model.selection();
    const count = ids.length;
    const sure = await this.dialogs.confirm({
      title: `Remove ${count === 1 ? 'this picture' : `${count} pictures`} from the job?`,
      text: 'Their corrections go from this browser and cannot be brought back. Files on your disk are untouched.',
      yes: 'Remove from the job',
    });
    if (sure) void this.model.remove(ids);
  }
}
