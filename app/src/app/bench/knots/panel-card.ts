import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Router } from '@angular/router';
import {
  ofPanelAlone,
  PAPER_NAMES,
  parseProportion,
  withoutPanel,
  withPanel,
  withTrim,
  type LengthUnit,
  type Panel,
  type PanelReading,
  type PanelSide,
  type PanelSize,
} from '@able-plumb/core';
import { JobKeeper } from '../../keeper/job-keeper';
import { Icon } from '../../ui/icon';
import { BenchModel } from '../bench-model';

type Shape = 'computed' | 'size' | 'ratio' | (typeof PAPER_NAMES)[number];

/** One panel: its proportions computed or typed, its margins, the crop around it, a picture of its own. */
@Component({
  selector: 'ap-panel-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  templateUrl: './panel-card.html',
  styleUrl: './knot.scss',
  host: { class: 'part' },
})
export class PanelCard {
  private readonly keeper = inject(JobKeeper);
  private readonly router = inject(Router);
  protected readonly model = inject(BenchModel);

  readonly panel = input.required<Panel>();
  readonly reading = input.required<PanelReading>();

  protected readonly units: readonly LengthUnit[] = ['mm', 'cm', 'm', 'in', 'ft'];
  protected readonly papers = PAPER_NAMES;
  protected readonly sides: readonly PanelSide[] = ['top', 'right', 'bottom', 'left'];

  protected readonly figures = computed(() => {
    const { ratio, ratioFrom, ratioSd, number, trouble } = this.reading();
    const { size, used } = this.panel();
    const sure = ratioFrom === 'computed' ? ` ±${ratioSd < 0.0001 ? '0.0001' : ratioSd.toFixed(ratioSd < 0.01 ? 4 : 2)}` : '';
    return {
      number,
      used,
      trouble,
      ratio: ratio === null ? '' : `${ratio.toFixed(4)}${sure} : 1, ${ratioFrom}`,
      shape: shapeOf(size),
      sized: size && 'width' in size ? size : null,
      typedRatio: size && 'ratio' in size ? String(Math.round(size.ratio * 1e4) / 1e4) : '',
      marginUnit: size && 'width' in size && size.unit ? size.unit : size && 'paper' in size ? 'mm' : '%',
    };
  });

  /** A new kind of shape starts from what the corners say, so that nothing jumps. */
  protected chooseShape(shape: string): void {
    const ratio = this.reading().ratio ?? 1;
    const sizes: Readonly<Record<'computed' | 'size' | 'ratio', PanelSize>> = {
      computed: null,
      size: { width: Math.round(1000 * ratio), height: 1000, unit: 'mm' },
      ratio: { ratio: Math.round(ratio * 1e4) / 1e4 },
    };
    const size: PanelSize = shape in sizes ? sizes[shape as keyof typeof sizes] : { paper: shape as (typeof PAPER_NAMES)[number] };
    this.change({ size });
  }

  protected typeSize(width: HTMLInputElement, height: HTMLInputElement, unit: HTMLSelectElement): void {
    const [w, h] = [width, height].map((field) => Number(field.value.replace(',', '.'))) as [number, number];
    if (w > 0 && h > 0) this.change({ size: { width: w, height: h, unit: unit.value as LengthUnit } });
  }

  protected typeRatio(field: HTMLInputElement): void {
    const ratio = parseProportion(field.value);
    if (ratio === null) field.value = this.figures().typedRatio;
    else this.change({ size: { ratio } });
  }

  protected typeMargin(side: PanelSide, field: HTMLInputElement): void {
    const value = Number(field.value.replace(',', '.'));
    const { id, margins } = this.panel();
    if (Number.isFinite(value))
      this.model.session.commit((c) => withTrim(withPanel(c, id, { margins: { ...margins, [side]: value } }), { around: 'panel' }));
    else field.value = this.marginText(side);
  }

  protected marginText(side: PanelSide): string {
    return String(Math.round(this.panel().margins[side] * 100) / 100);
  }

  protected cropToIt(): void {
    this.model.stageView.fit();
    this.model.session.commit((c) => withTrim(c, { around: 'panel' }));
  }

  protected async ownPicture(): Promise<void> {
    const picture = this.model.session.picture();
    const correction = this.model.session.committed();
    if (!picture || !correction) return;
    const name = picture.name.replace(/(\.[^.]*)?$/, (ending) => `, panel ${this.reading().number}${ending}`);
    const own = await this.keeper.addCopy(picture, name, ofPanelAlone(correction, this.panel().id));
    if (own) await this.router.navigate(['/bench', own.id]);
  }

  protected use(): void {
    this.change({ used: !this.panel().used });
  }

  protected remove(): void {
    this.model.session.commit((c) => withoutPanel(c, this.panel().id));
  }

  private change(change: Partial<Panel>): void {
    this.model.session.commit((c) => withPanel(c, this.panel().id, change));
  }
}

function shapeOf(size: PanelSize): Shape {
  if (!size) return 'computed';
  if ('paper' in size) return size.paper;
  return 'ratio' in size ? 'ratio' : 'size';
}
