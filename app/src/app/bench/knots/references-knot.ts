import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { Store } from '@ngrx/store';
import {
  degreesText,
  lineAngleInWords,
  withPanel,
  withPanels,
  withReference,
  withReferences,
  withTrim,
  borderReference,
  withFront,
  type Correction,
  type Panel,
  type ReferenceKind,
  type ReferenceReading,
} from '@able-plumb/core';
import { benchActions } from '../../state/bench.actions';
import { shelfActions } from '../../state/shelf.actions';
import { Icon } from '../../ui/icon';
import { Segments, type Segment } from '../../ui/segments';
import { BenchModel } from '../bench-model';

/** An edge that bows more than this should not be trusted before the lens is corrected, px. */
const LENS_BOW_PX = 4;

interface Row {
  readonly id: string;
  readonly kind: ReferenceKind;
  readonly name: string;
  readonly used: boolean;
  readonly before: string;
  readonly after: string;
  readonly off: string;
  readonly bad: boolean;
  readonly disagrees: boolean;
}

const KINDS: readonly { readonly kind: ReferenceKind; readonly name: string; readonly means: string }[] = [
  { kind: 'plumb', name: 'Plumb', means: 'vertical in reality' },
  { kind: 'level', name: 'Level', means: 'horizontal, along the front' },
  { kind: 'return', name: 'Return', means: 'horizontal, going back from the front' },
  { kind: 'eye', name: 'Eye line', means: 'the horizon, at the camera’s height' },
];

/** References: the pen, what the lines may do, and the list of lines. */
@Component({
  selector: 'ap-references-knot',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, Segments, MatMenu, MatMenuItem, MatMenuTrigger],
  templateUrl: './references-knot.html',
  styleUrl: './knot.scss',
})
export class ReferencesKnot {
  private readonly store = inject(Store);
  protected readonly model = inject(BenchModel);

  protected readonly kinds = KINDS;
  protected readonly sides: readonly Segment[] = [
    { value: 'result', label: 'result', hint: 'Draw on the corrected picture' },
    { value: 'original', label: 'original', hint: 'Draw on the original' },
  ];
  protected readonly mays: readonly Segment[] = [
    { value: 'turn-only', label: 'turn only', hint: 'The lines may only turn the picture; convergence stays' },
    { value: 'stand-plumb', label: 'stand plumb', hint: 'The lines may turn the picture and stand verticals plumb' },
    { value: 'square-on', label: 'square-on', hint: 'The lines may do everything they determine' },
  ];

  protected readonly rows = computed<readonly Row[]>(() => (this.model.readings()?.references ?? []).map(toRow));

  /** One plumb and one level line alone, and they do not come out true: what they say was held back. */
  protected readonly unsure = computed(() => {
    const used = this.model.readings()?.references.filter((r) => r.used) ?? [];
    return used.length === 2 && used[0]?.kind !== used[1]?.kind && used.some((r) => Math.abs(r.offDeg ?? 0) > 0.05);
  });

  protected readonly disagreeing = computed(() => this.rows().find((r) => r.disagrees) ?? null);

  protected readonly fronts: readonly Segment[] = [
    { value: 'wall', label: 'wall', hint: 'The result faces a wall' },
    { value: 'floor', label: 'floor, table', hint: 'The result looks straight down on a floor or a table' },
    { value: 'sheet', label: 'sheet', hint: 'A scan or a page: lines only turn it' },
  ];

  protected setFront(front: string): void {
    this.model.commit((c) => withFront(c, front as 'wall' | 'floor' | 'sheet'));
  }

  protected addBorder(side: 'top' | 'right' | 'bottom' | 'left'): void {
    this.model.setReferences((references) => [...references, borderReference(this.model.committed() as Correction, side)]);
  }

  protected typeStated(field: HTMLInputElement): void {
    const selected = this.model.selected();
    const value = Number(field.value.replace(',', '.').replace('°', ''));
    if (selected && Number.isFinite(value) && Math.abs(value) <= 90)
      this.model.commit((c) => withReference(c, selected.id, { statedAngle: value }));
    else field.value = String(selected?.statedAngle ?? 0);
  }

  protected switchMagnet(): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { magnet: !this.model.settings().magnet } }));
  }

  /** What the magnet found for the selected line. */
  protected readonly edge = computed(() => {
    const snapped = this.model.snapped();
    const fit = snapped?.fits[snapped.index];
    const row = this.rows().find((r) => r.id === snapped?.id);
    if (!snapped || !fit || !row || snapped.id !== this.model.selectedId()) return null;
    const bow =
      fit.bowPx >= LENS_BOW_PX
        ? `bows ${fit.bowPx.toFixed(0)} px: the lens bends it, correct the lens first`
        : `bow ${fit.bowPx.toFixed(1)} px`;
    return {
      text: `${row.name} lies on its edge, ${bow}.`,
      more: snapped.fits.length > 1 ? `Edge ${snapped.index + 1} of ${snapped.fits.length}` : '',
    };
  });

  protected nextEdge(): void {
    this.model.nextEdge();
  }

  protected arm(tool: 'pen' | 'panel'): void {
    this.model.takeTool(this.model.tool() === tool ? 'none' : tool);
  }

  protected readonly panels = computed(() => {
    const readings = this.model.readings()?.panels ?? [];
    return (this.model.correction()?.panels ?? []).map((panel, i) => {
      const reading = readings[i];
      const typed = panel.size && 'width' in panel.size ? panel.size : null;
      return {
        panel,
        number: i + 1,
        ratio: reading?.ratio ? `${reading.ratio.toFixed(4)} : 1, ${reading.ratioFrom}` : '',
        trouble: reading?.trouble ?? null,
        width: typed?.width ?? '',
        height: typed?.height ?? '',
        unit: typed?.unit ?? 'mm',
      };
    });
  });
  protected readonly units = ['mm', 'cm', 'm', 'in', 'ft'] as const;
  protected readonly sides4 = ['top', 'right', 'bottom', 'left'] as const;

  /** Typed width and height together are the size; one alone waits for the other. */
  protected typeSize(id: string, width: HTMLInputElement, height: HTMLInputElement, unit: HTMLSelectElement): void {
    const [w, h] = [width, height].map((field) => Number(field.value.replace(',', '.'))) as [number, number];
    if (width.value.trim() === '' && height.value.trim() === '') this.model.commit((c) => withPanel(c, id, { size: null }));
    else if (w > 0 && h > 0) this.model.commit((c) => withPanel(c, id, { size: { width: w, height: h, unit: unit.value as 'mm' } }));
  }

  protected typeMargin(panel: Panel, side: 'top' | 'right' | 'bottom' | 'left', field: HTMLInputElement): void {
    const value = Number(field.value.replace(',', '.'));
    if (Number.isFinite(value))
      this.model.commit((c) => withTrim(withPanel(c, panel.id, { margins: { ...panel.margins, [side]: value } }), { around: 'panel' }));
  }

  protected cropToPanel(): void {
    this.model.commit((c) => withTrim(c, { around: 'panel' }));
  }

  protected usePanel(id: string, used: boolean): void {
    this.model.commit((c) => withPanel(c, id, { used }));
  }

  protected removePanel(id: string): void {
    this.model.commit((c) =>
      withPanels(
        c,
        c.panels.filter((p) => p.id !== id),
      ),
    );
  }

  protected drawOn(value: string): void {
    this.store.dispatch(benchActions.drawingOn({ on: value as 'result' | 'original' }));
  }

  protected allow(value: string): void {
    const may = value as 'turn-only' | 'stand-plumb' | 'square-on';
    this.model.commit((c) => withReferences({ ...c, stance: { ...c.stance, may } }, c.references));
  }

  protected setKind(id: string, kind: ReferenceKind): void {
    this.model.commit((c) => withReference(c, id, { kind }));
  }

  protected setUsed(id: string, used: boolean): void {
    this.model.commit((c) => withReference(c, id, { used }));
  }

  protected remove(id: string): void {
    this.model.setReferences((references) => references.filter((r) => r.id !== id));
    if (this.model.selectedId() === id) this.model.select(null);
  }

  protected clear(): void {
    this.model.commit((c) => withPanels(withReferences(c, []), []));
    this.model.select(null);
  }
}

function toRow(r: ReferenceReading): Row {
  const name = KINDS.find(({ kind }) => kind === r.kind)?.name ?? r.kind;
  const off = Math.abs(r.offDeg ?? 0);
  return {
    id: r.id,
    kind: r.kind,
    name: `${name} ${r.number}`,
    used: r.used,
    before: lineAngleInWords(r.kind, r.beforeDeg),
    after: r.afterDeg === null ? '–' : degreesText(r.afterDeg),
    off: r.offPx === null ? '–' : `${r.offPx.toFixed(1)} px`,
    bad: r.disagrees || (r.used && off >= 0.5),
    disagrees: r.disagrees,
  };
}
