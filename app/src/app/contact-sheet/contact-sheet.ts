import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import type { ElementRef } from '@angular/core';
import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  inject,
  input,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatTooltip } from '@angular/material/tooltip';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { JobKeeper } from '../keeper/job-keeper';
import { contactActions, type SheetFilter, type SheetOrder } from '../state/contact.reducer';
import { jobsFeature } from '../state/jobs.reducer';
import { Scanning } from '../scan/scanning';
import { Icon } from '../ui/icon';
import { NameMark } from '../ui/name-mark';
import { SheetCell } from './sheet-cell';
import { SheetFinding } from './sheet-finding';
import { SheetModel, type SheetPicture } from './sheet-model';
import { SheetSide } from './sheet-side';
import { SelectField } from '../ui/select-field';
import { FilePick } from '../ui/file-pick';
import { ThemeButton } from '../theme-button';

const CELL_WIDTH = 226;
/** A cell and the room below it, px. */
const ROW_HEIGHT = 260;

/** How long a row may take until it is drawn, frames. */
const FRAMES_TO_DRAW = 60;

const ORDERS: readonly { readonly value: SheetOrder; readonly name: string }[] = [
  { value: 'job', name: 'as opened' },
  { value: 'name', name: 'by name' },
  { value: 'taken', name: 'by when taken' },
  { value: 'lean', name: 'by lean, worst first' },
  { value: 'found', name: 'by what was found, surest first' },
];
const FILTERS: readonly { readonly value: SheetFilter; readonly name: string }[] = [
  { value: 'all', name: 'all' },
  { value: 'untouched', name: 'untouched' },
  { value: 'set', name: 'set' },
  { value: 'attention', name: 'to be looked at' },
  { value: 'linked', name: 'linked' },
  { value: 'sure', name: 'found, sure' },
  { value: 'likely', name: 'found, likely' },
  { value: 'silent', name: 'nothing found' },
];

/** The contact sheet: all pictures of a job with their results; what is selected is changed and exported together. */
@Component({
  selector: 'ap-contact-sheet',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    CdkFixedSizeVirtualScroll,
    CdkVirtualForOf,
    CdkVirtualScrollViewport,
    FilePick,
    Icon,
    MatButton,
    MatTooltip,
    NameMark,
    RouterLink,
    SelectField,
    SheetCell,
    SheetSide,
    ThemeButton,
  ],
  providers: [SheetModel, SheetFinding],
  host: { '(document:keydown)': 'selectAll($event)' },
  templateUrl: './contact-sheet.html',
  styleUrl: './contact-sheet.scss',
})
export class ContactSheet {
  readonly jobId = input.required<string>();

  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly keeper = inject(JobKeeper);
  private readonly scanning = inject(Scanning);
  protected readonly model = inject(SheetModel);
  private readonly viewport = viewChild.required(CdkVirtualScrollViewport);
  private readonly ground = viewChild.required<ElementRef<HTMLElement>>('ground');
  private readonly loaded = this.store.selectSignal(jobsFeature.selectLoaded);

  protected readonly orders = ORDERS;
  protected readonly filters = FILTERS;
  protected readonly rowHeight = ROW_HEIGHT;
  protected readonly adding = computed(() => this.keeper.importing()?.text ?? '');
  private readonly columns = signal(4);
  /** The picture that has the keyboard, and the one that a range is counted from. */
  protected readonly focused = signal('');
  private anchor = '';

  protected readonly rows = computed(() => {
    const [pictures, columns] = [this.model.shown(), this.columns()];
    return Array.from({ length: Math.ceil(pictures.length / columns) }, (_, r) => pictures.slice(r * columns, (r + 1) * columns));
  });
  protected readonly template = computed(() => `repeat(${this.columns()}, minmax(0, 1fr))`);

  constructor() {
    effect(() => {
      const id = this.jobId();
      if (!this.loaded()) return;
      untracked(() => {
        void this.model.open(id).then(() => {
          if (!this.model.job()) void this.router.navigate(['/']);
        });
      });
    });
    effect(() => {
      if (this.model.unjudged().length > 0) untracked(() => void this.model.judgeThem());
    });
    effect((onCleanup) => {
      const ground = this.ground().nativeElement;
      const seen = new ResizeObserver(() => {
        this.columns.set(Math.max(1, Math.floor(ground.clientWidth / CELL_WIDTH)));
        this.viewport().checkViewportSize();
      });
      seen.observe(ground);
      onCleanup(() => seen.disconnect());
    });
    inject(DestroyRef).onDestroy(() => this.model.said.set(null));
  }

  /** A row that gets one picture more stays, with the small results that are in it. */
  protected rowKey = (_: number, row: readonly SheetPicture[]): string => row[0]?.picture.id ?? '';

  protected order(value: string): void {
    this.store.dispatch(contactActions.ordered({ order: value as SheetOrder }));
  }

  protected filter(value: string): void {
    this.store.dispatch(contactActions.filtered({ filter: value as SheetFilter }));
  }

  protected open(id: string): void {
    void this.router.navigate(['/bench', id]);
  }

  protected press(event: MouseEvent, id: string): void {
    this.focused.set(id);
    if (event.shiftKey && this.anchor !== '') return this.selectRange(id, event.ctrlKey || event.metaKey);
    this.anchor = id;
    const onTick = (event.target as HTMLElement).closest('.tick') !== null;
    if (event.ctrlKey || event.metaKey || onTick) this.toggle(id);
    else this.model.select([id]);
  }

  private toggle(id: string): void {
    const selection = this.model.selection();
    this.model.select(selection.includes(id) ? selection.filter((s) => s !== id) : [...selection, id]);
  }

  /** From the anchor to a picture; the anchor stays the first. */
  private selectRange(id: string, added: boolean): void {
    const ids = this.model.shown().map((p) => p.picture.id);
    const [from, to] = [ids.indexOf(this.anchor), ids.indexOf(id)];
    const range = from <= to ? ids.slice(from, to + 1) : ids.slice(to, from + 1).reverse();
    this.model.select(added ? [...new Set([...this.model.selection(), ...range])] : range);
  }

  protected onKey(event: KeyboardEvent): void {
    const ids = this.model.shown().map((p) => p.picture.id);
    const columns = this.columns();
    const at = Math.max(0, ids.indexOf(this.focused()));
    const steps: Readonly<Record<string, number>> = {
      ArrowLeft: -1,
      ArrowRight: 1,
      ArrowUp: -columns,
      ArrowDown: columns,
      Home: -at,
      End: ids.length - 1 - at,
    };
    const step = steps[event.key];
    if (step !== undefined) {
      const id = ids[Math.min(ids.length - 1, Math.max(0, at + step))];
      if (id === undefined) return;
      if (event.shiftKey) {
        if (this.anchor === '') this.anchor = this.focused() || id;
        this.selectRange(id, false);
      }
      this.focus(id, ids.indexOf(id));
    } else if (event.key === ' ' && this.focused() !== '') {
      this.anchor = this.focused();
      this.toggle(this.focused());
    } else if (event.key === 'Enter' && this.focused() !== '') this.open(this.focused());
    else if (event.key === 'Escape') this.model.select([]);
    else return;
    event.preventDefault();
  }

  /** Ctrl+A selects the pictures, wherever the keyboard is but in a field. */
  protected selectAll(event: KeyboardEvent): void {
    const all = event.key.toLowerCase() === 'a' && (event.ctrlKey || event.metaKey);
    if (!all || (event.target as HTMLElement).matches('input:not([type=checkbox]), mat-select')) return;
    this.model.select(this.model.shown().map((p) => p.picture.id));
    event.preventDefault();
  }

  /** Gives a picture the keyboard, brought into sight first. */
  private focus(id: string, index: number): void {
    this.focused.set(id);
    const row = Math.floor(index / this.columns());
    const [top, height] = [this.viewport().measureScrollOffset(), this.viewport().getViewportSize()];
    if (row * ROW_HEIGHT < top) this.viewport().scrollToOffset(row * ROW_HEIGHT);
    else if ((row + 1) * ROW_HEIGHT > top + height) this.viewport().scrollToOffset((row + 1) * ROW_HEIGHT - height);
    this.focusWhenDrawn(id, FRAMES_TO_DRAW);
  }

  /** A row that has just been scrolled to is drawn a few frames later. */
  private focusWhenDrawn(id: string, frames: number): void {
    requestAnimationFrame(() => {
      const cell = document.getElementById(`cell-${id}`);
      if (cell) cell.focus({ preventScroll: true });
      else if (frames > 0 && this.focused() === id) this.focusWhenDrawn(id, frames - 1);
    });
  }

  protected async scan(): Promise<void> {
    const job = this.model.job();
    if (!job) return;
    try {
      const refused = (await this.scanning.into(job.id, job.name)) ?? [];
      if (refused.length > 0) this.model.said.set({ text: refused.join(' '), trouble: true });
    } catch (error) {
      this.model.said.set({ text: `What was scanned could not be kept: ${(error as Error).message}`, trouble: true });
    }
  }

  protected async add(picked: readonly File[]): Promise<void> {
    const files = picked.map((file) => ({ name: file.name, file }));
    const { refused } = await this.keeper.addFiles(this.jobId(), files);
    if (refused.length > 0) this.model.said.set({ text: refused.join(' '), trouble: true });
  }
}
