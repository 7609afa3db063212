import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, viewChild } from '@angular/core';
import { BreakpointObserver } from '@angular/cdk/layout';
import { toSignal } from '@angular/core/rxjs-interop';
import { MatIconButton } from '@angular/material/button';
import { MatTooltip } from '@angular/material/tooltip';
import { Store } from '@ngrx/store';
import {
  composeWarp,
  degreesText,
  fitView,
  mostlyInWords,
  originalOf,
  secondOpinionInWords,
  stanceInWords,
  verdictInWords,
} from '@able-plumb/core';
import { paint } from '../../work/paint';
import { shelfActions } from '../../state/shelf.actions';
import { WORDS } from '../../ui/words';
import { StageClient } from '../../work/stage-client';
import { BenchSwitches } from '../session/bench-switches';
import { Found } from '../session/found';
import { PictureSession } from '../session/picture-session';
import { ShownPicture } from '../session/shown-picture';
import { Icon } from '../../ui/icon';

/** Deviations from here on are explained, degrees. */
const WIDE_DEG = 0.2;
/** Beyond this little of what is shown was photographed (a matter of judgement). */
const MOST_STRETCH = 12;

/** Where the readings leave room for ten lines and what tells of them. */
const TALL = '(min-height: 900px), (max-width: 900px) and (orientation: portrait)';

const SMALL = { width: 96, height: 64 };
/** While something moves it is drawn no more often than this, ms. */
const SMALL_EVERY_MS = 100;

/** The numbers that are always visible: one verdict, the stance in words, the cost; and a small picture of the other side. */
@Component({
  selector: 'ap-readings',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatIconButton, MatTooltip],
  templateUrl: './readings-panel.html',
  styleUrl: './readings-panel.scss',
})
export class ReadingsPanel {
  private readonly session = inject(PictureSession);
  private readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  private readonly found = inject(Found);
  private readonly pictures = inject(StageClient);
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('small');

  /** The small picture shows what the stage does not: the result while drawing on the original or holding, else the original. */
  protected readonly smallShows = computed<'result' | 'original'>(() =>
    this.switches.showsOriginal() || this.session.gestureActive() ? 'result' : 'original',
  );

  private readonly store = inject(Store);
  /** Room for more than the verdict. */
  private readonly tall = toSignal(inject(BreakpointObserver).observe(TALL), { requireSync: true });
  protected readonly open = computed(() => {
    const { readings } = this.switches.settings();
    return readings === 'room' ? this.tall().matches : readings === 'open';
  });

  protected fold(): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { readings: this.open() ? 'folded' : 'open' } }));
  }

  protected readonly verdict = computed(() => {
    const [readings, correction] = [this.picture.readings(), this.picture.settled()];
    return readings && correction ? verdictInWords(readings.verdict, correction) : { main: 'Not known yet', detail: '', bad: false };
  });

  protected readonly figures = computed(() => {
    const readings = this.picture.readings();
    const warp = this.picture.shown()?.warp;
    if (!readings || !warp) return null;
    const { sd, mostlyBy } = readings;
    const correction = this.picture.settled();
    const wide = (['tilt', 'swing', 'roll'] as const).find((movement) => (sd[movement] ?? 0) >= WIDE_DEG && mostlyBy[movement]);
    const by = wide && mostlyBy[wide];
    return {
      stance: stanceInWords(readings.attitude, sd),
      sure: by && by !== 'pointing' && correction ? mostlyInWords(by, correction.camera) : '',
      rows: [
        ['Convergence', readings.convergenceDeg === null ? '–' : degreesText(readings.convergenceDeg), WORDS.convergence],
        ['Kept', `${(readings.cost.kept * 100).toFixed(1)} %`],
        ...(readings.filled > 0 ? [['Filled', `${(readings.filled * 100).toFixed(1)} %`] as const] : []),
        ['Rise', millimetres(readings.rise), WORDS.rise],
        ['Peak stretch', `${readings.cost.peakEnlargement.toFixed(2)} ×`],
        ['Cross', millimetres(readings.cross), WORDS.cross],
        ['Output', `${warp.outputSize.width} × ${warp.outputSize.height}`],
        ...this.beside(),
      ] satisfies readonly (readonly [string, string, string?])[],
    };
  });

  /** What the picture's other edges and the camera's own level say, where they say something. */
  private readonly beside = computed<readonly (readonly [string, string, string?])[]>(() => {
    const [opinion, level] = [this.found.opinion(), this.picture.settled()?.camera.level];
    const said = [
      ...(level?.tilt === undefined ? [] : [`${level.tilt < 0 ? 'down' : 'up'} ${Math.abs(level.tilt).toFixed(1)}°`]),
      ...(level?.roll === undefined ? [] : [`roll ${Math.abs(level.roll).toFixed(1)}°${level.roll < 0 ? ' anticl.' : ''}`]),
    ];
    return [
      ...(opinion
        ? [['Other edges', `${opinion.agree} of ${opinion.agree + opinion.against}`, secondOpinionInWords(opinion)] as const]
        : []),
      ...(said.length > 0
        ? [['Own level', said.join(', '), 'How the camera’s own level says that it stood; good to a degree or two'] as const]
        : []),
    ];
  });

  protected readonly trouble = computed(() => {
    const trouble = this.picture.shown()?.trouble;
    if (trouble) return trouble;
    const stretch = this.picture.readings()?.cost.peakEnlargement ?? 1;
    return stretch < MOST_STRETCH
      ? null
      : `Parts are stretched up to ${Math.round(stretch)} times: more than a picture can bear. Look at the line that is off most, hold back under Stance, or crop closer.`;
  });

  constructor() {
    let lastDrawn = 0;
    effect((onCleanup) => {
      const shows = this.smallShows();
      const settled = this.picture.settledShown();
      const picture = this.session.picture();
      if (!settled || !picture || this.session.loading().state !== 'ready') return;
      const draw = (): void => {
        lastDrawn = performance.now();
        const correction = shows === 'original' ? originalOf(settled.correction) : settled.correction;
        const { flipX, flipY } = correction.stance;
        const { crop } = shows === 'original' ? composeWarp(correction, correction.picture) : settled.warp;
        const view = fitView(crop, SMALL, flipX, flipY, 0);
        const density = Math.min(2, window.devicePixelRatio || 1);
        const request = { pictureId: picture.id, correction, view, density, sharp: false, workLight: false };
        void this.pictures.preview('small', request).then((pixels) => {
          if (pixels) paint(this.canvas().nativeElement, pixels);
        });
      };
      // while something moves the stage goes first, and this one follows now and then
      const wait = this.session.gestureActive() ? lastDrawn + SMALL_EVERY_MS - performance.now() : 0;
      if (wait <= 0) return draw();
      const timer = setTimeout(draw, wait);
      onCleanup(() => clearTimeout(timer));
    });
  }
}

/** A shift on the 36 x 24 mm frame, signed. */
const millimetres = (mm: number | null): string => (mm === null ? '–' : `${mm < 0 ? '−' : ''}${Math.abs(mm).toFixed(1)} mm`);
