import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal, signal } from '@angular/core';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { MatTableModule } from '@angular/material/table';
import { MatTooltip } from '@angular/material/tooltip';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import {
  DISTORTION_FORMULA,
  distortionCurve,
  lensOf,
  writeCalibration,
  writeProfile,
  type CalibrationForm,
  type LensProfile,
  type ProfileRow,
} from '@able-plumb/core';
import { LensKeeper } from '../keeper/lens-keeper';
import { jobsFeature } from '../state/jobs.reducer';
import { selectOpenPicture } from '../state/selectors';
import { Dialogs } from '../ui/dialogs';
import { droppedFiles } from '../ui/dropped-files';
import { Icon } from '../ui/icon';
import { LineChart, type ChartLine } from '../ui/line-chart';
import { NameMark } from '../ui/name-mark';
import { saveFile } from '../ui/save-file';
import { BoardCard } from './board-card';
import { TextField } from '../ui/text-field';
import { FilePick } from '../ui/file-pick';
import { ThemeButton } from '../theme-button';

const MODEL_NAMES: Readonly<Record<string, string>> = {
  'brown-conrady': 'Brown-Conrady',
  radial: 'radial',
  division: 'division',
  fisheye: 'fisheye',
};

/** Lens cabinet: profiles, their curves side by side, what each was made from and whom it is for; files in and out; checkerboards. */
@Component({
  selector: 'ap-lens-cabinet',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    BoardCard,
    FilePick,
    Icon,
    LineChart,
    MatButton,
    MatCheckbox,
    MatIconButton,
    MatMenu,
    MatMenuItem,
    MatMenuTrigger,
    MatTableModule,
    MatTooltip,
    NameMark,
    RouterLink,
    TextField,
    ThemeButton,
  ],
  templateUrl: './lens-cabinet.html',
  styleUrl: './lens-cabinet.scss',
  host: { '(document:dragover)': '$event.preventDefault()', '(document:drop)': 'onDrop($event)' },
})
export class LensCabinet {
  private readonly store = inject(Store);
  private readonly lenses = inject(LensKeeper);
  private readonly dialogs = inject(Dialogs);

  protected readonly settings = this.store.selectSignal(jobsFeature.selectSettings);
  protected readonly loaded = this.store.selectSignal(jobsFeature.selectLoaded);
  /** The picture that was on the bench last. */
  protected readonly openPicture = this.store.selectSignal(selectOpenPicture);
  protected readonly formula = DISTORTION_FORMULA;
  protected readonly profiles = this.lenses.profiles;
  protected readonly refused = signal<readonly string[]>([]);

  private readonly picked = signal<string | null>(null);
  protected readonly selected = computed(() => this.profiles().find((p) => p.id === this.picked()) ?? this.profiles()[0] ?? null);
  /** Profiles whose curves are drawn beside the selected one's. */
  protected readonly compared = linkedSignal<string | null, ReadonlySet<string>>({
    source: this.picked,
    computation: (id, before) => new Set([...(before?.value ?? [])].filter((other) => other !== id)),
  });

  protected readonly cards = computed(() =>
    this.profiles().map((profile) => ({
      id: profile.id,
      name: profile.name,
      line: `${focalWords(profile)}${MODEL_NAMES[profile.rows[0]?.model.kind ?? ''] ?? ''}`,
      selected: profile.id === this.selected()?.id,
      compared: this.compared().has(profile.id),
    })),
  );

  protected readonly lines = computed<readonly ChartLine[]>(() => {
    const own = this.selected();
    const others = this.profiles().filter((p) => this.compared().has(p.id));
    return (own ? [own, ...others] : others).flatMap((profile) =>
      profile.rows.map((row) => {
        const points = distortionCurve(lensOf(row.model, profile.frame), profile.frame);
        const focal = row.focalMm === null ? '' : `${row.focalMm} mm`;
        return {
          name: others.length === 0 ? focal || profile.name : `${profile.name} ${focal}`,
          x: points.map((p) => p.height),
          y: points.map((p) => p.percent),
        };
      }),
    );
  });

  protected readonly rows = computed(() =>
    (this.selected()?.rows ?? []).map((row) => ({
      row,
      focal: row.focalMm === null ? 'any' : `${row.focalMm} mm`,
      equivalent: row.focal35 === null ? '–' : `${row.focal35.toFixed(1)} mm`,
      model: MODEL_NAMES[row.model.kind] ?? '',
      measured: `${Math.round(row.reach * 100)} %`,
      fringes: row.lateral.red === 1 && row.lateral.blue === 1 ? '–' : 'corrected',
      madeFrom: row.madeFrom || '–',
    })),
  );

  protected readonly forms: readonly { readonly form: CalibrationForm | 'own'; readonly name: string }[] = [
    { form: 'own', name: 'Able Plumb profile (JSON)' },
    { form: 'opencv-yaml', name: 'OpenCV calibration (YAML)' },
    { form: 'opencv-json', name: 'OpenCV calibration (JSON)' },
    { form: 'camera-info', name: 'camera_info (YAML)' },
  ];

  protected readonly texts = [
    { key: 'focal', name: 'Focal length' },
    { key: 'equivalent', name: '35 mm eq.' },
    { key: 'model', name: 'Model' },
    { key: 'measured', name: 'Measured to' },
    { key: 'fringes', name: 'Lateral colour' },
    { key: 'madeFrom', name: 'Made from' },
  ] as const;
  protected readonly columns = [...this.texts.map((t) => t.key), 'acts'];

  protected pick(id: string): void {
    this.picked.set(id);
  }

  protected compare(id: string): void {
    this.compared.update((set) => {
      const next = new Set(set);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  }

  protected openFiles(picked: readonly File[]): void {
    void this.take(picked.map((file) => ({ name: file.name, file })));
  }

  protected onDrop(event: DragEvent): void {
    event.preventDefault();
    void droppedFiles(event).then(
      (files) => this.take(files),
      (error: Error) => this.refused.set([error.message]),
    );
  }

  private async take(files: readonly { readonly name: string; readonly file: Blob }[]): Promise<void> {
    const { added, refused } = await this.lenses.addFiles(files);
    this.refused.set(refused);
    const last = added.at(-1);
    if (last) this.picked.set(last.id);
  }

  protected async change(profile: LensProfile, change: Partial<LensProfile>): Promise<void> {
    try {
      await this.lenses.save({ ...profile, ...change });
    } catch (error) {
      this.refused.set([(error as Error).message]);
    }
  }

  protected readonly named = (text: string): string | null => (text.trim() === '' ? 'A profile needs a name.' : null);

  protected rename(profile: LensProfile, name: string): void {
    void this.change(profile, { name: name.trim() });
  }

  /** Names as a person types them: separated by semicolons, since lens names carry commas. */
  protected names(text: string): string[] {
    return text
      .split(';')
      .map((name) => name.trim())
      .filter((name) => name !== '');
  }

  protected async save(profile: LensProfile, form: CalibrationForm | 'own', row: ProfileRow | undefined): Promise<void> {
    const stem = profile.name.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-|-$/g, '') || 'lens';
    try {
      if (form === 'own') saveFile(new Blob([writeProfile(profile)], { type: 'application/json' }), `${stem}.lens.json`);
      else if (row) {
        const at = row.focalMm === null || profile.rows.length === 1 ? '' : `-${row.focalMm}mm`;
        const kind = form === 'camera-info' ? '.camera_info.yaml' : form === 'opencv-json' ? '.opencv.json' : '.opencv.yml';
        saveFile(new Blob([await writeCalibration(profile, row, form)], { type: 'text/plain' }), `${stem}${at}${kind}`);
      }
      this.refused.set([]);
    } catch (error) {
      this.refused.set([(error as Error).message]);
    }
  }

  protected async remove(profile: LensProfile): Promise<void> {
    const sure = await this.dialogs.confirm({
      title: `Remove ${profile.name}?`,
      text: 'Pictures that use it keep their lens as it is; new ones no longer find it. Save it as a file first if you may want it again.',
      yes: 'Remove the profile',
    });
    if (sure) void this.lenses.remove(profile.id);
  }
}

function focalWords({ rows }: LensProfile): string {
  const focals = rows.flatMap((row) => row.focalMm ?? []).sort((p, q) => p - q);
  if (focals.length === 0) return '';
  return focals.length === 1 ? `${focals[0]} mm, ` : `${focals[0]} to ${focals.at(-1)} mm, ${focals.length} rows, `;
}
