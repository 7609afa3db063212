import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatTooltip } from '@angular/material/tooltip';
import { Router } from '@angular/router';
import {
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
import { JobKeeper } from '../../../keeper/job-keeper';
import { Icon } from '../../../ui/icon';
import { PictureSession } from '../../session/picture-session';
import { StageView } from '../../session/stage-view';
import { pictureOfPanel } from './panel-pictures';
import { NumberField } from '../../../ui/number-field';
import { TextField } from '../../../ui/text-field';
import { SelectField, type Choice } from '../../../ui/select-field';

type TypedSize = Extract<PanelSize, { readonly width: number }>;
type Shape = 'computed' | 'size' | 'ratio' | (typeof PAPER_NAMES)[number];

/** One panel: its proportions computed or typed, its margins, the crop around it, a picture of its own. */
@Component({
  selector: 'ap-panel-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatButton, MatCheckbox, MatIconButton, MatTooltip, NumberField, SelectField, TextField],
  templateUrl: './panel-card.html',
  styleUrl: './panel-card.scss',
  host: { class: 'part' },
})
export class PanelCard {
  private readonly keeper = inject(JobKeeper);
  private readonly router = inject(Router);
  private readonly session = inject(PictureSession);
  private readonly stageView = inject(StageView);

  readonly panel = input.required<Panel>();
  readonly reading = input.required<PanelReading>();

  protected readonly units: readonly Choice[] = (['mm', 'cm', 'm', 'in', 'ft'] satisfies LengthUnit[]).map(named);
  protected readonly shapes: readonly Choice[] = [
    ...['computed', 'size', 'ratio'].map(named),
    ...PAPER_NAMES.map((paper) => ({ ...named(paper), group: 'Paper and cards' })),
  ];
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

  protected typeSize(before: TypedSize, change: Partial<TypedSize>): void {
    this.change({ size: { ...before, ...change } });
  }

  protected asUnit = (unit: string): LengthUnit => unit as LengthUnit;

  protected readonly checkRatio = (text: string): string | null =>
    text === '' || parseProportion(text) !== null ? null : 'two numbers, as 7:5, or one, as 1.414';

  protected typeRatio(text: string): void {
    const ratio = parseProportion(text);
    if (ratio !== null) this.change({ size: { ratio } });
  }

  protected typeMargin(side: PanelSide, value: number): void {
    const { id, margins } = this.panel();
    this.session.commit((c) => withTrim(withPanel(c, id, { margins: { ...margins, [side]: value } }), { around: 'panel' }));
  }

  protected margin(side: PanelSide): number {
    return Math.round(this.panel().margins[side] * 100) / 100;
  }

  protected cropToIt(): void {
    this.stageView.fit();
    this.session.commit((c) => withTrim(c, { around: 'panel' }));
  }

  protected async ownPicture(): Promise<void> {
    const own = await pictureOfPanel(this.session, this.keeper, this.panel().id);
    if (own) await this.router.navigate(['/bench', own.id]);
  }

  protected use(): void {
    this.change({ used: !this.panel().used });
  }

  protected remove(): void {
    this.session.commit((c) => withoutPanel(c, this.panel().id));
  }

  private change(change: Partial<Panel>): void {
    this.session.commit((c) => withPanel(c, this.panel().id, change));
  }
}

const named = (value: string): Choice => ({ value, name: value });

function shapeOf(size: PanelSize): Shape {
  if (!size) return 'computed';
  if ('paper' in size) return size.paper;
  return 'ratio' in size ? 'ratio' : 'size';
}
