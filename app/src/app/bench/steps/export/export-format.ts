import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatTooltip } from '@angular/material/tooltip';
import { Store } from '@ngrx/store';
import { FILTERS, type FilterName, type KeptMetadata, type Correction } from '@able-plumb/core';
import type { ExportChoice } from '../../../state/model';
import { shelfActions } from '../../../state/shelf.actions';
import { Segments, type Segment } from '../../../ui/segments';
import { BenchSwitches } from '../../session/bench-switches';
import { PictureSession } from '../../session/picture-session';
import { NumberField } from '../../../ui/number-field';
import { SelectField, type Choice } from '../../../ui/select-field';

const KEPT: readonly { readonly value: KeptMetadata; readonly name: string }[] = [
  { value: 'all', name: 'kept: EXIF, IPTC, XMP' },
  { value: 'no-position', name: 'kept, without the position' },
  { value: 'none', name: 'none but the colour profile' },
];

const BACKGROUNDS: readonly { readonly value: string; readonly name: string }[] = [
  { value: 'transparent', name: 'transparent' },
  { value: '#ffffff', name: 'white' },
  { value: '#000000', name: 'black' },
  { value: '#808080', name: 'middle grey' },
];

/** How a file is written: format with its quality, metadata, filter, the colour of empty edges. */
@Component({
  selector: 'ap-export-format',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatTooltip, NumberField, Segments, SelectField],
  templateUrl: './export-format.html',
  styleUrl: './export.scss',
  host: { class: 'part' },
})
export class ExportFormatFields {
  private readonly store = inject(Store);
  protected readonly session = inject(PictureSession);
  private readonly switches = inject(BenchSwitches);

  protected readonly formats: readonly Segment[] = [
    { value: 'jpeg', label: 'JPEG' },
    { value: 'png', label: 'PNG' },
    { value: 'tiff', label: 'TIFF' },
    { value: 'webp', label: 'WebP' },
    { value: 'avif', label: 'AVIF', hint: 'Small files of high quality; takes many times as long to write' },
    { value: 'jxl', label: 'JXL', hint: 'JPEG XL: small files, also without loss; takes many times as long to write' },
  ];
  protected readonly depths: readonly Segment[] = [
    { value: 'as-taken', label: 'as taken', hint: 'The original’s: 16 bits stay 16 bits' },
    { value: '8', label: '8 bit' },
    { value: '16', label: '16 bit' },
  ];
  protected readonly chromas: readonly Segment[] = [
    { value: '4:4:4', label: 'full', hint: 'Colour at full resolution (4:4:4)' },
    { value: '4:2:0', label: 'halved', hint: 'Colour at half resolution (4:2:0): smaller files' },
  ];
  protected readonly packings: readonly Segment[] = [
    { value: 'quick', label: 'at once' },
    { value: 'smallest', label: 'smallest file', hint: 'About a tenth smaller at the same quality; takes many times as long' },
  ];
  protected readonly losses: readonly Segment[] = [
    { value: 'lossy', label: 'by quality' },
    { value: 'lossless', label: 'without loss', hint: 'Every pixel as it is; larger files' },
  ];
  protected readonly compressions: readonly Segment[] = [
    { value: 'deflate', label: 'Deflate', hint: 'Packed without loss; smaller files' },
    { value: 'none', label: 'unpacked', hint: 'Read by every program; larger files' },
  ];
  protected readonly lights: readonly Segment[] = [
    { value: 'encoded', label: 'as stored', hint: 'Averages samples as the file holds them, as is common practice' },
    {
      value: 'linear',
      label: 'linear light',
      hint: 'Averages the light that samples stand for (curve of sRGB): fine bright detail keeps its brightness in a smaller file; takes longer',
    },
  ];
  protected readonly colourNames: readonly Choice[] = [
    { value: 'as-is', name: 'as the original has them' },
    { value: 'srgb', name: 'sRGB' },
    { value: 'display-p3', name: 'Display P3' },
  ];
  protected readonly sharpenings: readonly Segment[] = [
    { value: 'none', label: 'none' },
    { value: 'screen', label: 'screen', hint: 'One light unsharp step after the resampling, for screens' },
    { value: 'print', label: 'print', hint: 'One stronger unsharp step after the resampling, for prints' },
  ];
  protected readonly filterNames = Object.values(FILTERS).map((f) => ({ value: f.name, name: f.label }));
  protected readonly keptNames = KEPT;

  protected readonly choice = computed(() => this.switches.settings().exportChoice);
  protected readonly filter = computed(() => this.session.correction()?.output.filter ?? 'lanczos3');
  protected readonly light = computed(() => this.session.correction()?.output.light ?? 'encoded');
  protected readonly sentence = computed(() => FILTERS[this.filter()].sentence);
  protected readonly depthLost = computed(() => {
    const { kind, bits } = this.choice();
    return this.session.picture()?.bits === 16 && (kind === 'jpeg' || kind === 'webp' || kind === 'jxl' || (kind !== 'avif' && bits === 8));
  });
  /** Formats that are written by quality or without loss. */
  protected readonly byLoss = computed(() => ['webp', 'avif', 'jxl'].includes(this.choice().kind));
  protected readonly byQuality = computed(() => this.choice().kind === 'jpeg' || (this.byLoss() && !this.choice().lossless));
  protected readonly emptyEdges = computed(() => (this.session.correction()?.crop.edges ?? 'clear') !== 'clear');
  protected readonly background = computed(() => this.session.correction()?.output.background ?? 'transparent');
  protected readonly backgrounds = computed(() => {
    const own = this.background();
    const named =
      this.choice().kind === 'jpeg'
        ? BACKGROUNDS.map((b) => (b.value === 'transparent' ? { ...b, name: 'white (no transparency)' } : b))
        : BACKGROUNDS;
    return named.some((b) => b.value === own) ? named : [...named, { value: own, name: own }];
  });

  protected change(change: Partial<ExportChoice>): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { exportChoice: { ...this.choice(), ...change } } }));
  }

  protected setKind(kind: string): void {
    this.change({ kind: kind as ExportChoice['kind'] });
  }

  protected setBits(bits: string): void {
    this.change({ bits: bits === '16' ? 16 : bits === '8' ? 8 : 'as-taken' });
  }

  protected setChroma(chroma: string): void {
    this.change({ chroma: chroma as ExportChoice['chroma'] });
  }

  protected setCompression(compression: string): void {
    this.change({ compression: compression as ExportChoice['compression'] });
  }

  protected setKept(kept: string): void {
    this.change({ kept: kept as KeptMetadata });
  }

  protected setFilter(name: string): void {
    this.session.commit((c) => ({ ...c, output: { ...c.output, filter: name as FilterName } }));
  }

  protected setLight(light: string): void {
    this.session.commit((c) => ({ ...c, output: { ...c.output, light: light === 'linear' ? 'linear' : 'encoded' } }));
  }

  protected readonly colour = computed(() => this.session.correction()?.output.colour ?? 'as-is');
  protected readonly sharpen = computed(() => this.session.correction()?.output.sharpen ?? 'none');

  protected setColour(colour: string): void {
    this.session.commit((c) => ({ ...c, output: { ...c.output, colour: colour as Correction['output']['colour'] } }));
  }

  protected setSharpen(sharpen: string): void {
    this.session.commit((c) => ({ ...c, output: { ...c.output, sharpen: sharpen as Correction['output']['sharpen'] } }));
  }

  protected setBackground(background: string): void {
    this.session.commit((c) => ({ ...c, output: { ...c.output, background } }));
  }
}
