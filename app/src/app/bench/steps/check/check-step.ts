import { ChangeDetectionStrategy, Component, computed, inject, signal, type OnDestroy } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatSlider, MatSliderThumb } from '@angular/material/slider';
import { MatTableModule } from '@angular/material/table';
import {
  checkPage,
  degreesText,
  kindNames,
  lineAngleInWords,
  originalOf,
  secondOpinionInWords,
  stemOf,
  type Correction,
} from '@able-plumb/core';
import { Passing } from '../../../ui/passing';
import type { Compare } from '../../../state/model';
import { Icon } from '../../../ui/icon';
import { LineChart, type ChartLine } from '../../../ui/line-chart';
import { saveFile } from '../../../ui/save-file';
import { Segments, type Segment } from '../../../ui/segments';
import { ExportClient } from '../../../work/export-client';
import { BenchSwitches } from '../../session/bench-switches';
import { Found } from '../../session/found';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { StageView } from '../../session/stage-view';
import { STRETCH_STEPS } from '../../stage/stretch-steps';

/** Longer side of the pictures on a check page, px. */
const PAGE_PX = 1400;
/** Lines off by this much in the result are marked, degrees, as in the list of references. */
const BAD_DEG = 0.5;

/** Check: result against original, the numbers of every line before and after, and both as a page to keep. */
@Component({
  selector: 'ap-check-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, LineChart, MatButton, MatCheckbox, MatSlider, MatSliderThumb, MatTableModule, Segments],
  templateUrl: './check-step.html',
  styleUrl: './check.scss',
})
export class CheckStep implements OnDestroy {
  private readonly session = inject(PictureSession);
  protected readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  private readonly stageView = inject(StageView);
  protected readonly found = inject(Found);
  private readonly exporter = inject(ExportClient);

  protected readonly ways: readonly Segment[] = [
    { value: 'wipe', label: 'wipe', hint: 'The original left of a line, the result right of it (C)' },
    { value: 'side', label: 'side by side', hint: 'The original left, the result right, in register (C)' },
    { value: 'result', label: 'result', hint: 'The result alone; B, held, shows the original (C)' },
  ];
  protected readonly busy = signal(false);
  private readonly passing = inject(Passing);
  protected readonly trouble = signal<string | null>(null);

  protected readonly steps = STRETCH_STEPS;
  /** What the correction costs in enlargement, in words. */
  protected readonly stretch = computed(() => {
    const cost = this.picture.readings()?.cost;
    const crop = this.picture.shown()?.warp.crop;
    if (!cost || !crop) return null;
    const share = Math.min(1, 1 / cost.peakEnlargement);
    return {
      median: cost.medianEnlargement.toFixed(2),
      peak: cost.peakEnlargement.toFixed(2),
      size: `${Math.round(crop.width * share)} × ${Math.round(crop.height * share)} px`,
    };
  });

  /** What the picture's other edges say to what was set, in words. */
  protected readonly opinion = computed(() => {
    const opinion = this.found.opinion();
    return opinion ? secondOpinionInWords(opinion) : '';
  });

  protected readonly columns = ['name', 'before', 'after', 'off'];
  protected readonly byId = (_: number, row: { readonly id: string }): string => row.id;
  protected readonly rows = computed(() => {
    const correction = this.session.correction();
    const names = kindNames(correction?.camera.flat ? 'sheet' : (correction?.stance.front ?? 'wall'));
    return (this.picture.readings()?.references ?? []).map((r) => ({
      id: r.id,
      kind: r.kind,
      name: `${names[r.kind]} ${r.number}`,
      used: r.used && r.counts,
      before: lineAngleInWords(r.kind, r.beforeDeg),
      beforeDeg: Math.abs(r.beforeDeg),
      after: r.afterDeg === null ? '–' : degreesText(r.afterDeg),
      off: r.offDeg === null ? (r.waits ? 'to be told' : r.used && !r.counts ? 'not counted' : '–') : degreesText(r.offDeg),
      offDeg: Math.abs(r.offDeg ?? 0),
      bad: r.counts && Math.abs(r.offDeg ?? 0) >= BAD_DEG,
    }));
  });

  /** Before and after as bars; a return line's slope before says nothing of an error, so only what it is off by is drawn. */
  protected readonly bars = computed<readonly ChartLine[]>(() => {
    const rows = [...this.rows()].sort((p, q) => Number(q.used) - Number(p.used));
    const names = rows.map((r) => (r.used ? r.name : `(${r.name})`));
    return [
      { name: 'before', x: names, y: rows.map((r) => (r.kind === 'return' ? null : r.beforeDeg)) },
      { name: 'after', x: names, y: rows.map((r) => r.offDeg) },
    ];
  });

  /** Room for a pair of bars a line. */
  protected readonly chartHeight = computed(() => 78 + 28 * this.rows().length);

  ngOnDestroy(): void {
    this.found.showsOpinion.set(false);
  }

  protected compare(way: string): void {
    this.switches.chooseCompare(way as Compare);
    this.stageView.fit();
  }

  protected async save(): Promise<void> {
    const picture = this.session.picture();
    const shown = this.picture.shown();
    const readings = this.picture.readings();
    if (!picture || !shown || !readings || this.busy()) return;
    this.busy.set(true);
    this.trouble.set(null);
    try {
      const { correction, warp } = shown;
      // the original's own frame, whatever the crop asks for
      const whole: Correction = {
        ...originalOf(correction),
        crop: { ...correction.crop, rect: undefined, edges: 'clear', ratio: 'as-taken', around: 'picture' },
      };
      const [before, after] = [await this.small(picture.id, whole), await this.small(picture.id, correction)];
      const page = checkPage({
        correction,
        readings,
        outputSize: warp.outputSize,
        before,
        after,
        madeAt: new Date().toLocaleString(),
        secondOpinion: this.opinion(),
      });
      const name = `${stemOf(picture.name)}-check.html`;
      saveFile(new Blob([page], { type: 'text/html' }), name);
      this.passing.say(`Saved as ${name}.`);
    } catch (error) {
      this.trouble.set(`The check could not be written: ${(error as Error).message} The picture is safe.`);
    } finally {
      this.busy.set(false);
    }
  }

  /** A picture as a small JPEG in a data URL. */
  private async small(pictureId: string, correction: Correction): Promise<string> {
    const sized: Correction = { ...correction, output: { ...correction.output, size: { kind: 'long-edge', px: PAGE_PX } } };
    const format = { kind: 'jpeg', quality: 88, chroma: '4:2:0' } as const;
    const blob = await this.exporter.export(
      { pictureId, name: correction.picture.name, file: async () => null },
      sized,
      format,
      'none',
      new AbortController().signal,
      () => undefined,
    );
    return new Promise((resolve, reject) => {
      const reader = new FileReader();
      reader.onload = () => resolve(reader.result as string);
      reader.onerror = () => reject(new Error('The browser could not read back what it wrote.'));
      reader.readAsDataURL(blob);
    });
  }
}
