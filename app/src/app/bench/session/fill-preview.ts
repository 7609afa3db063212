import { computed, effect, inject, Injectable, signal, untracked, type OnDestroy } from '@angular/core';
import { filledShare, PlumbError, type Correction, type Rect } from '@able-plumb/core';
import { FillClient } from '../../work/fill-client';
import { BenchModel } from '../bench-model';

/** What filling makes of the crop on the stage. */
export interface FilledCrop {
  /** The document that it was made of, and the crop that was filled, plane px. */
  readonly of: Correction;
  readonly crop: Rect;
  readonly filled: string;
  readonly hatched: string;
}

/** Longer side of what is filled for the stage, px. */
const LONG_EDGE = 720;
/** After the last change; so long nothing else must be wanted, ms. */
const PAUSE_MS = 120;

/** Fills the crop that is shown, small, whenever something about it has settled. */
@Injectable()
export class FillPreview implements OnDestroy {
  private readonly model = inject(BenchModel);
  private readonly client = inject(FillClient);

  readonly result = signal<FilledCrop | null>(null);
  /** The same as long as the picture lies as it did then: what is moved meanwhile would show something else beneath. */
  readonly fitting = computed(() => {
    const [result, correction] = [this.result(), this.model.session.correction()];
    const parts = ['stance', 'lens', 'ease', 'camera'] as const;
    return result && correction && parts.every((part) => result.of[part] === correction[part]) ? result : null;
  });
  /** Why nothing can be filled; empty where it can. */
  readonly trouble = signal('');
  readonly busy = signal(false);
  /** Whether what is filled is hatched, so that it can be told from the picture. */
  readonly hatched = signal(false);

  /** Share of the crop that is filled, 0..1. */
  readonly share = computed(() => {
    const shown = this.model.shown();
    const asked = this.model.session.correction();
    return shown && asked ? filledShare(asked, shown.warp) : 0;
  });

  private asked = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor() {
    effect(() => {
      const correction = this.model.session.correction();
      const shown = this.model.shown();
      const ready = this.model.session.loading().state === 'ready' && !this.model.session.gestureActive();
      const wanted = correction?.crop.edges === 'fill' && this.share() > 0;
      clearTimeout(this.timer);
      if (!wanted) untracked(() => this.clear());
      else if (ready && shown) this.timer = setTimeout(() => void this.fill(correction, shown.warp.crop), PAUSE_MS);
    });
  }

  private async fill(correction: Correction, crop: Rect): Promise<void> {
    const turn = (this.asked += 1);
    this.busy.set(true);
    try {
      const images = await this.client.preview(this.model.session.id, correction, crop, LONG_EDGE);
      // something else is wanted by now
      if (turn !== this.asked) return;
      this.clear();
      if (images?.filled && images.hatched)
        this.result.set({ of: correction, crop, filled: URL.createObjectURL(images.filled), hatched: URL.createObjectURL(images.hatched) });
    } catch (error) {
      if (turn !== this.asked) return;
      this.clear();
      this.trouble.set(error instanceof PlumbError || error instanceof Error ? error.message : String(error));
    } finally {
      if (turn === this.asked) this.busy.set(false);
    }
  }

  private clear(): void {
    const before = this.result();
    if (before) for (const url of [before.filled, before.hatched]) URL.revokeObjectURL(url);
    this.result.set(null);
    this.trouble.set('');
  }

  ngOnDestroy(): void {
    this.asked += 1;
    clearTimeout(this.timer);
    this.clear();
  }
}
