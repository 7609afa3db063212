import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatProgressBar } from '@angular/material/progress-bar';
import { ExportQueue } from './export-queue';

const STAGES = { opening: 'Opening', rendering: 'Resampling', filling: 'Filling', encoding: 'Writing' } as const;

/** What the export is doing, and what became of it: progress, cancel, what was written, what failed and why. */
@Component({
  selector: 'ap-queue-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatProgressBar],
  template: `
    @if (queue.running()) {
      <p class="note" role="status">{{ line() }}</p>
      <mat-progress-bar [mode]="measured() ? 'determinate' : 'indeterminate'" [value]="share() * 100" aria-label="Export progress" />
      <button type="button" matButton="outlined" class="big plain" (click)="queue.cancel()">Cancel</button>
    } @else if (queue.files().length > 0) {
      @if (one(); as file) {
        @if (file.state === 'written') {
          <p class="done" role="status">
            <b>{{ file.line }}</b> written: {{ (file.bytes / 1e6).toFixed(2) }} MB, {{ (queue.took() / 1000).toFixed(1) }} s. The original
            is untouched.
          </p>
        } @else {
          <p class="done trouble" role="alert">
            {{ file.line }} {{ file.state === 'failed' ? 'The original and your settings are safe.' : '' }}
          </p>
        }
      } @else {
        <p class="done" [class.trouble]="failed().length > 0" role="status">
          <b>{{ count('written') }} of {{ queue.files().length }} files written</b>{{ rest() }} in {{ (queue.took() / 1000).toFixed(0) }} s.
          The originals are untouched.
        </p>
        @if (failed().length > 0) {
          <ul aria-label="Files that failed">
            @for (file of failed(); track $index) {
              <li>
                <b>{{ file.label }}</b> {{ file.line }}
              </li>
            }
          </ul>
        }
      }
      @if (queue.trouble(); as sentence) {
        <p class="done trouble" role="alert">{{ sentence }}</p>
      }
    }
  `,
  styleUrl: './queue-card.scss',
})
export class QueueCard {
  protected readonly queue = inject(ExportQueue);
  protected readonly one = computed(() => (this.queue.files().length === 1 ? this.queue.files()[0] : null));
  protected readonly failed = computed(() => this.queue.files().filter((f) => f.state === 'failed'));

  /** Whether it is known how far this stage is. */
  protected readonly measured = computed(
    () => this.queue.files().length > 1 || ['rendering', 'filling'].includes(this.queue.progress()?.stage ?? ''),
  );

  private readonly settled = computed(
    () => this.queue.files().filter((file) => file.state !== 'waiting' && file.state !== 'working').length,
  );

  /** How far this stage of one file is, or all of several. */
  protected readonly share = computed(() => {
    const files = this.queue.files();
    if (files.length === 1) return this.queue.progress()?.share ?? 0;
    return this.settled() / files.length;
  });

  protected readonly line = computed(() => {
    const files = this.queue.files();
    const progress = this.queue.progress();
    const stage = progress ? STAGES[progress.stage] : 'Opening';
    if (files.length === 1) return `${stage}${progress && this.measured() ? ` ${(progress.share * 100).toFixed(0)} %` : ' …'}`;
    const working = files.filter((file) => file.state === 'working').map((file) => file.label);
    return `${this.settled() + 1} of ${files.length}: ${working.join(' and ')} …`;
  });

  protected count(state: 'written' | 'cancelled'): number {
    return this.queue.files().filter((f) => f.state === state).length;
  }

  /** What else became of the files, in words. */
  protected rest(): string {
    const parts = [
      this.failed().length > 0 ? `${this.failed().length} failed` : '',
      this.count('cancelled') > 0 ? `${this.count('cancelled')} cancelled` : '',
    ].filter((part) => part !== '');
    return parts.length > 0 ? `, ${parts.join(', ')},` : '';
  }
}
