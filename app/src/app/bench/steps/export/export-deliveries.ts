import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { FormControl, FormGroup, ReactiveFormsModule, type AbstractControl } from '@angular/forms';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatError, MatFormField, MatInput } from '@angular/material/input';
import { MatOption, MatSelect } from '@angular/material/select';
import { MatTooltip } from '@angular/material/tooltip';
import { Store } from '@ngrx/store';
import { FILTERS, PROPORTIONS, withDelivery, type Delivery, type OutputSize, readDeliveries, writeDeliveries } from '@able-plumb/core';
import { EXPORT_FORMATS } from '@able-plumb/codecs';
import { FIELDS } from '../../../ui/fields';
import { Passing } from '../../../ui/passing';
import { formatOf } from '../../../export/export-plan';
import type { ExportChoice } from '../../../state/model';
import { JobKeeper } from '../../../keeper/job-keeper';
import { saveFile } from '../../../ui/save-file';
import { shelfActions } from '../../../state/shelf.actions';
import { BenchSwitches } from '../../session/bench-switches';
import { PictureSession } from '../../session/picture-session';
import { FilePick } from '../../../ui/file-pick';
import { Icon } from '../../../ui/icon';

/** The deliveries: which of them this picture has, and how each is made from the form above. */
@Component({
  selector: 'ap-export-deliveries',
  changeDetection: ChangeDetectionStrategy.OnPush,
  providers: [FIELDS],
  imports: [
    FilePick,
    Icon,
    MatButton,
    MatCheckbox,
    MatError,
    MatFormField,
    MatIconButton,
    MatInput,
    MatMenu,
    MatMenuItem,
    MatMenuTrigger,
    MatOption,
    MatSelect,
    MatTooltip,
    ReactiveFormsModule,
  ],
  templateUrl: './export-deliveries.html',
  styleUrl: './export.scss',
  host: { class: 'part' },
})
export class ExportDeliveries {
  private readonly store = inject(Store);
  private readonly keeper = inject(JobKeeper);
  private readonly passing = inject(Passing);
  private readonly session = inject(PictureSession);
  private readonly switches = inject(BenchSwitches);

  protected readonly naming = signal(false);
  protected readonly form = new FormGroup({
    name: new FormControl('', { nonNullable: true, validators: named }),
    ratio: new FormControl('crop', { nonNullable: true }),
  });
  protected readonly ratios = computed(() => [
    { value: 'crop', name: 'as each picture is cropped' },
    ...PROPORTIONS.filter((p) => p.ratio !== 'free').map((p) => ({ value: String(p.ratio), name: p.name })),
    ...this.switches.settings().ownProportions.map((p) => ({ value: String(p.ratio), name: p.name })),
  ]);

  protected readonly rows = computed(() => {
    const chosen = this.session.committed()?.deliveries ?? [];
    return this.switches.settings().deliveries.map((delivery) => ({
      delivery,
      on: chosen.some((d) => d.id === delivery.id),
      standing: this.switches.settings().standingDeliveries.includes(delivery.id),
      line: this.lineOf(delivery),
    }));
  });

  private lineOf({ ratio, size, format, filter, light, colour, sharpen }: Delivery): string {
    const shape = ratio === 'crop' ? 'own crop' : (this.ratios().find((r) => r.value === String(ratio))?.name ?? ratio.toString());
    const quality =
      'quality' in format && !('lossless' in format && format.lossless)
        ? ` ${format.quality}`
        : 'bits' in format
          ? format.bits === 'as-taken'
            ? ''
            : ` ${format.bits} bit`
          : '';
    const extras = [
      'mostBytes' in format && format.mostBytes !== undefined ? `, at most ${format.mostBytes / 1000} kB` : '',
      colour === 'as-is' ? '' : `, ${colour === 'srgb' ? 'sRGB' : 'Display P3'}`,
      sharpen === 'none' ? '' : `, sharpened for ${sharpen}`,
    ].join('');
    return `${shape}, ${sizeInWords(size)}, ${EXPORT_FORMATS[format.kind].name}${quality}, ${FILTERS[filter].label}${light === 'linear' ? ', linear light' : ''}${extras}`;
  }

  protected switch(delivery: Delivery, on: boolean): void {
    this.session.commit((c) => withDelivery(c, delivery.id, on));
  }

  /** Keeps what the form says under a name; one of that name is replaced, and its pictures keep it. */
  protected save(): void {
    this.form.markAllAsTouched();
    if (this.form.invalid) return;
    const { name, ratio } = this.form.getRawValue();
    const output = this.session.committed()?.output;
    const clean = name.trim();
    if (!output) return;
    const { settings } = this.switches;
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
      colour: output.colour,
      sharpen: output.sharpen,
      format: formatOf(choice),
      kept: choice.kept,
      pattern: choice.pattern.includes('{delivery}') ? choice.pattern : `${choice.pattern}-{delivery}`,
    };
    this.keep(before ? known.map((d) => (d === before ? delivery : d)) : [...known, delivery]);
    this.session.commit((c) => withDelivery(c, delivery.id, true));
    this.naming.set(false);
    this.form.reset();
  }

  /** Ticks it for all pictures of the job, or for none. */
  protected async tickAll(delivery: Delivery, on: boolean): Promise<void> {
    if (this.session.elsewhere()) {
      this.passing.trouble('Nothing was changed: this job is being worked on in another tab.');
      return;
    }
    const ids = this.session.job()?.pictureIds ?? [];
    await this.keeper.tickDelivery(ids, delivery.id, on);
    this.passing.say(on ? `${delivery.name} is ticked for all ${ids.length} pictures.` : `${delivery.name} is ticked for none of them.`);
  }

  protected stand({ id, name }: Delivery): void {
    const before = this.switches.settings().standingDeliveries;
    const standing = before.includes(id);
    const standingDeliveries = standing ? before.filter((other) => other !== id) : [...before, id];
    this.store.dispatch(shelfActions.settingsChanged({ change: { standingDeliveries } }));
    this.passing.say(
      standing ? `${name} is no longer ticked in new pictures.` : `${name} is ticked in pictures that are opened from now on.`,
    );
  }

  protected saveSet(): void {
    saveFile(new Blob([writeDeliveries(this.switches.settings().deliveries)], { type: 'application/json' }), 'deliveries.json');
  }

  protected async readSet([file]: readonly File[]): Promise<void> {
    try {
      const read = readDeliveries(await (file as File).text());
      const known = this.switches.settings().deliveries;
      // one of the same name keeps its id, and its pictures keep it
      const next = read.map((d) => ({ ...d, id: known.find((k) => k.name === d.name)?.id ?? d.id }));
      this.keep([...known.filter((k) => !next.some((d) => d.id === k.id || d.name === k.name)), ...next]);
      this.passing.say(`${read.length} ${read.length === 1 ? 'delivery' : 'deliveries'} read.`);
    } catch (error) {
      this.passing.trouble((error as Error).message);
    }
  }

  /** Takes a delivery's settings into the form, to be changed and saved again. */
  protected take({ size, filter, light, background, colour, sharpen, format, kept, pattern }: Delivery): void {
    const mostKb = 'mostBytes' in format && format.mostBytes !== undefined ? format.mostBytes / 1000 : null;
    const { mostBytes: _said, ...plain } = { mostBytes: 0, ...format };
    const smallest = format.kind === 'jpeg' && format.smallest === true;
    const change: ExportChoice = { ...this.switches.settings().exportChoice, ...plain, smallest, mostKb, kept, pattern };
    this.store.dispatch(shelfActions.settingsChanged({ change: { exportChoice: change } }));
    this.session.commit((c) => ({ ...c, output: { size, filter, light, background, colour, sharpen } }));
  }

  protected remove(delivery: Delivery): void {
    this.keep(this.switches.settings().deliveries.filter((d) => d.id !== delivery.id));
    this.session.commit((c) => withDelivery(c, delivery.id, false));
  }

  private keep(deliveries: readonly Delivery[]): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { deliveries } }));
  }
}

const named = ({ value }: AbstractControl<string>): { readonly name: true } | null => (value.trim() === '' ? { name: true } : null);

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
