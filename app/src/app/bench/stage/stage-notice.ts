import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatProgressBar } from '@angular/material/progress-bar';
import { BenchSwitches } from '../session/bench-switches';
import { PictureSession } from '../session/picture-session';

/** What is said over the stage: that the picture is being opened, why it could not be, that the original is shown. */
@Component({
  selector: 'ap-stage-notice',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatProgressBar],
  template: `
    @if (session.loading().state === 'loading') {
      <div class="notice" role="status">
        Opening the picture … {{ megapixels() }}
        <mat-progress-bar mode="indeterminate" aria-label="Opening the picture" />
      </div>
    } @else if (failed(); as sentence) {
      <p class="notice trouble" role="alert">{{ sentence }}</p>
    }
    @if (switches.showsOriginal()) {
      <p class="flag">original</p>
    }
  `,
  styles: `
    .notice {
      position: absolute;
      left: 50%;
      top: 46%;
      translate: -50% -50%;
      max-width: 460px;
      margin: 0;
      padding: 10px 16px;
      border-radius: 6px;
      background: var(--paper);
      color: var(--ink);
    }
    .notice.trouble {
      border-left: 4px solid var(--brick);
    }
    .flag {
      position: absolute;
      left: 12px;
      top: 10px;
      margin: 0;
      padding: 2px 10px;
      border-radius: 3px;
      background: rgb(20 24 27 / 82%);
      color: #fff;
      font-weight: 600;
      font-size: 13px;
      pointer-events: none;
    }
  `,
})
export class StageNotice {
  protected readonly session = inject(PictureSession);
  protected readonly switches = inject(BenchSwitches);

  /** Size of the picture that is being opened, in words. */
  protected readonly megapixels = computed(() => {
    const picture = this.session.picture();
    return picture ? `${((picture.width * picture.height) / 1e6).toFixed(0)} MP` : '';
  });

  protected readonly failed = computed(() => {
    const loading = this.session.loading();
    return loading.state === 'failed' ? loading.message : null;
  });
}
