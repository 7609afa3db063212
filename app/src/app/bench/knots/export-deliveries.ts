import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { FILTERS, PROPORTIONS, withDelivery, type Delivery, type OutputSize } from '@able-plumb/core';
import { EXPORT_FORMATS } from '@able-plumb/codecs';
import { formatOf } from '../../export/export-plan';
import type { ExportChoice } from '../../state/model';
import { shelfActions } from '../../state/shelf.actions';
import { BenchModel } from '../bench-model';

/** The deliveries: which of them this picture has, and how each is made from the form above. */
@Component({
  selector: 'ap-export-deliveries',
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './export-deliveries.html',
  styleUrl: './knot.scss',
  host: { class: 'part' },
})
export class ExportDeliveries {
  private readonly store = inject(Store);
  protected readonly model = inject(BenchModel);

  protected readonly naming = signal(false);
  protected readonly ratios = computed(() => [
    { value: 'crop', name: 'as each picture is cropped' },
    ...PROPORTIONS.filter((p) => p.ratio !== 'free').map((p) => ({ value: String(p.ratio), name: p.name })),
    ...this.model.settings().ownProportions.map((p) => ({ value: String(p.ratio), name: p.name })),
  ]);

  protected readonly rows = computed(() => {
    const chosen = this.model.session.committed()?.deliveries ?? [];
    return this.model.settings().deliveries.map((delivery) => ({
      delivery,
      on: chosen.some((d) => d.id === delivery.id),
      line: this.lineOf(delivery),
    }));
  });

  private lineOf({ ratio, size, format, filter, light }: Delivery): string {
    const shape = ratio === 'crop' ? 'own crop' : (this.ratios().find((r) => r.value === String(ratio))?.name ?? ratio.toString());
    const quality =
      'quality' in format && !('lossless' in format && format.lossless)
        ? ` ${format.quality}`
        : 'bits' in format
          ? ` ${format.bits} bit`
          : '';
    return `${shape}, ${sizeInWords(size)}, ${EXPORT_FORMATS[format.kind].name}${quality}, ${FILTERS[filter].label}${light === 'linear' ? ', linear light' : ''}`;
  }

  protected switch(delivery: Delivery, on: boolean): void {
    this.model.session.commit((c) => withDelivery(c, delivery.id, on));
  }

  /** Keeps what the form says under a name; one of that name is replaced, and its pictures keep it. */
  protected save(name: string, ratio: string): void {
    const output = this.model.session.committed()?.output;
    const clean = name.trim();
    if (!output || clean === '') return;
    const { settings } = this.model;
    const choice = settings().exportChoice;
    const known = settings().deliveries;
    const before = known.find((d) => d.name === clean);
    const delivery: Delivery = {
      id: before?.id ?? crypto.randomUUID(),
      name: clean,
      ratio: ratio === 'crop' || ratio === 'as-taken' ? ratio : Number(ratio),
      size: output.size,
      filter: output.filter,
      light: output.light,
      background: output.background,
      format: formatOf(choice),
      kept: choice.kept,
      pattern: choice.pattern.includes('{delivery}') ? choice.pattern : `${choice.pattern}-{delivery}`,
    };
    this.keep(before ? known.map((d) => (d === before ? delivery : d)) : [...known, delivery]);
    this.model.session.commit((c) => withDelivery(c, delivery.id, true));
    this.naming.set(false);
  }

  /** Takes a delivery's settings into the form, to be changed and saved again. */
  protected take({ size, filter, light, background, format, kept, pattern }: Delivery): void {
    const change: ExportChoice = { ...this.model.settings().exportChoice, ...format, kept, pattern };
    this.store.dispatch(shelfActions.settingsChanged({ change: { exportChoice: change } }));
    this.model.session.commit((c) => ({ ...c, output: { size, filter, light, background } }));
  }

  protected remove(delivery: Delivery): void {
    this.keep(this.model.settings().deliveries.filter((d) => d.id !== delivery.id));
    this.model.session.commit((c) => withDelivery(c, delivery.id, false));
  }

  private keep(deliveries: readonly Delivery[]): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { deliveries } }));
  }
}

function sizeInWords(size: OutputSize): string {
  switch (size.kind) {
    case 'natural':
      return 'full size';
    case 'long-edge':
      return `${size.px} px long`;
    case 'exact':
      return `${size.width} × ${size.height} px`;
    case 'print':
      return `${size.width} × ${size.height} ${size.unit} at ${size.ppi} ppi`;
    case 'scale':
      return `1:${size.oneTo} at ${size.ppi} ppi`;
    case 'no-enlargement':
      return 'nothing stretched';
  }
}
