import { ChangeDetectionStrategy, Component, computed, inject, signal, type OnDestroy } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatDialogActions, MatDialogContent, MatDialogRef, MatDialogTitle } from '@angular/material/dialog';
import { MatProgressBar } from '@angular/material/progress-bar';
import { Segments } from '../ui/segments';
import { SelectField, type Choice } from '../ui/select-field';
import { ScanClient, type Scanner } from '../work/scan-client';

/** A page that was scanned. */
export interface Scanned {
  readonly name: string;
  readonly file: File;
}

const USUAL_PPI = 300;
/** Sizes of what lies on the glass, mm (ISO 216; ANSI/ASME Y14.1 for letter). */
const SIZES = [
  { value: 'a4', name: 'A4, 297 × 210 mm', widthMm: 297, heightMm: 210 },
  { value: 'letter', name: 'Letter, 11 × 8.5 in', widthMm: 279.4, heightMm: 215.9 },
  { value: 'a5', name: 'A5, 210 × 148 mm', widthMm: 210, heightMm: 148 },
] as const;

/** Asks for a page from a scanner: which one, how finely, in colour or grey, how large; shows how it comes, and what went wrong. */
@Component({
  selector: 'ap-scan-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatDialogActions, MatDialogContent, MatDialogTitle, MatProgressBar, Segments, SelectField],
  templateUrl: './scan-dialog.html',
  styleUrl: './scan-dialog.scss',
})
export class ScanDialog implements OnDestroy {
  private readonly client = inject(ScanClient);
  private readonly dialog = inject<MatDialogRef<ScanDialog, Scanned>>(MatDialogRef);

  protected readonly scanners = signal<readonly Scanner[] | null>(null);
  protected readonly trouble = signal<string | null>(null);
  /** Bytes that have come; null while nothing is scanned. */
  protected readonly bytes = signal<number | null>(null);
  protected readonly chosen = signal(0);
  private readonly wishedPpi = signal(USUAL_PPI);
  protected readonly colour = signal<'colour' | 'grey'>('colour');
  private readonly wishedSize = signal('a4');
  private ended: AbortController | null = null;

  protected readonly scanner = computed(() => this.scanners()?.find(({ id }) => id === this.chosen()) ?? null);
  protected readonly scannerChoices = computed<Choice[]>(() =>
    (this.scanners() ?? []).map(({ id, abilities }) => ({ value: String(id), name: abilities?.name ?? `scanner ${id + 1}, not reached` })),
  );
  protected readonly resolutions = computed<Choice[]>(() =>
    (this.scanner()?.abilities?.resolutions ?? []).map((ppi) => ({ value: String(ppi), name: `${ppi} ppi` })),
  );
  protected readonly ppi = computed(() => {
    const all = this.scanner()?.abilities?.resolutions ?? [];
    const wished = this.wishedPpi();
    return all.includes(wished) ? wished : (all.find((ppi) => ppi >= USUAL_PPI) ?? all.at(-1) ?? USUAL_PPI);
  });
  protected readonly sizes = computed(() => {
    const glass = this.scanner()?.abilities;
    if (!glass) return [];
    const { widthMm, heightMm } = glass;
    const whole = { value: 'whole', name: `all of the glass, ${Math.round(widthMm)} × ${Math.round(heightMm)} mm`, widthMm, heightMm };
    // a hair more than the glass has is the glass
    const fitting = SIZES.filter((size) => size.widthMm <= widthMm + 0.5 && size.heightMm <= heightMm + 0.5);
    return [
      ...fitting.map((size) => ({ ...size, widthMm: Math.min(size.widthMm, widthMm), heightMm: Math.min(size.heightMm, heightMm) })),
      whole,
    ];
  });
  protected readonly size = computed(() => this.sizes().find(({ value }) => value === this.wishedSize()) ?? this.sizes()[0] ?? null);
  protected readonly colours = computed(() => (this.scanner()?.abilities?.colours ?? []).map((value) => ({ value, label: value })));
  protected readonly progress = computed(() => {
    const bytes = this.bytes();
    return bytes === null ? '' : bytes === 0 ? 'Scanning … the lamp is warming up' : `Scanning … ${(bytes / 1e6).toFixed(1)} MB have come`;
  });

  constructor() {
    void this.look();
  }

  /** Looks which scanners there are, again. */
  protected async look(): Promise<void> {
    this.trouble.set(null);
    try {
      const scanners = await this.client.scanners();
      this.scanners.set(scanners);
      this.chosen.set(scanners.find(({ abilities }) => abilities)?.id ?? 0);
      if (scanners.length === 0)
        this.trouble.set('The server knows no scanner. Name one when it is started: npm run demo -- --scanner http://ADDRESS');
      else this.trouble.set(this.scanner()?.trouble ?? null);
    } catch (error) {
      this.scanners.set([]);
      this.trouble.set((error as Error).message);
    }
  }

  protected choose(id: string): void {
    this.chosen.set(Number(id));
    this.trouble.set(this.scanner()?.trouble ?? null);
  }

  protected choosePpi(ppi: string): void {
    this.wishedPpi.set(Number(ppi));
  }

  protected chooseSize(size: string): void {
    this.wishedSize.set(size);
  }

  protected chooseColour(colour: string): void {
    this.colour.set(colour === 'grey' ? 'grey' : 'colour');
  }

  protected async scan(): Promise<void> {
    const [scanner, size] = [this.scanner(), this.size()];
    if (!scanner || !size || this.bytes() !== null) return;
    this.trouble.set(null);
    this.bytes.set(0);
    const ended = (this.ended = new AbortController());
    try {
      const { widthMm, heightMm } = size;
      const wish = { ppi: this.ppi(), colour: this.colour(), widthMm, heightMm };
      const page = await this.client.scan(scanner.id, wish, (bytes) => this.bytes.set(bytes), ended.signal);
      const name = `scan-${stamp(new Date())}.jpg`;
      this.dialog.close({ name, file: new File([page], name, { type: 'image/jpeg' }) });
    } catch (error) {
      if (!ended.signal.aborted) this.trouble.set((error as Error).message);
    } finally {
      this.bytes.set(null);
    }
  }

  /** Ends the scan, or else the asking. */
  protected cancel(): void {
    if (this.bytes() !== null) this.ended?.abort();
    else this.dialog.close();
  }

  ngOnDestroy(): void {
    this.ended?.abort();
  }
}

/** 2026-04-20-164005: names that sort as they were scanned. */
function stamp(at: Date): string {
  const two = (n: number): string => String(n).padStart(2, '0');
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}-${two(at.getHours())}${two(at.getMinutes())}${two(at.getSeconds())}`;
}
