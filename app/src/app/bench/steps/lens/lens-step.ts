import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatTooltip } from '@angular/material/tooltip';
import {
  ASSUMED_FOCAL35,
  bendOf,
  DISTORTION_FORMULA,
  distortionCurve,
  edgeCalibrationOf,
  focal35FromPx,
  focalPxFrom35,
  focalPxOfCorrection,
  focalRangeWords,
  lensFactsOf,
  lensForPicture,
  opticalCentreOf,
  PlumbError,
  televisionDistortion,
  toldFocal,
  withBend,
  withCamera,
  withLensFromEdges,
  withoutLens,
  type Correction,
  type PictureLens,
} from '@able-plumb/core';
import { LensKeeper } from '../../../keeper/lens-keeper';
import { Amount } from '../../../ui/amount';
import { LineChart } from '../../../ui/line-chart';
import { Segments, type Segment } from '../../../ui/segments';
import { BenchSwitches } from '../../session/bench-switches';
import { Hand } from '../../session/hand';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { LensEdges } from './lens-edges';
import { LensFringes } from './lens-fringes';
import { LensProfilePart } from './lens-profile';
import { ToolBox } from '../../tool-box';

const FOCAL_WORDS: Readonly<Record<Correction['camera']['focalFrom'], string>> = {
  metadata: 'from the metadata',
  profile: 'from the lens profile',
  references: 'solved from what was pointed at',
  typed: 'typed',
  assumed: 'assumed: the metadata say nothing',
};

type Way = 'profile' | 'edges' | 'hand';

/** Lens: what straightens the picture, and focal length and optical centre with where each came from. */
@Component({
  selector: 'ap-lens-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Amount, LensEdges, LensFringes, LensProfilePart, LineChart, MatButton, MatCheckbox, MatTooltip, Segments],
  templateUrl: './lens-step.html',
  styleUrl: './lens.scss',
})
export class LensStep {
  private readonly lenses = inject(LensKeeper);
  private readonly session = inject(PictureSession);
  protected readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  private readonly hand = inject(Hand);
  protected readonly box = inject(ToolBox);
  protected readonly formula = DISTORTION_FORMULA;
  protected readonly ways: readonly Segment[] = [
    { value: 'profile', label: 'a profile', hint: 'A lens profile from the cabinet' },
    { value: 'edges', label: 'traced edges', hint: 'Edges in this picture that are straight in reality (T)' },
    { value: 'hand', label: 'hand', hint: 'By eye' },
  ];
  protected readonly sides: readonly Segment[] = [
    { value: 'result', label: 'result', hint: 'Trace on the corrected picture' },
    { value: 'original', label: 'original', hint: 'Trace on the original' },
  ];

  /** The way whose controls are open: the one that is in use, or another one to look at. */
  protected readonly way = linkedSignal<{ from: Correction['lens']['from']; bent: boolean; tracing: boolean }, Way>({
    source: () => {
      const lens = this.session.correction()?.lens;
      return { from: lens?.from ?? 'nobody', bent: lens?.model.kind === 'division', tracing: this.hand.tool() === 'trace' };
    },
    computation: ({ from, bent, tracing }, before) => {
      if (tracing) return 'edges';
      if (from === 'nobody') return before?.value ?? 'profile';
      // by hand and straight: the slider passes through zero, or a person wants no profile
      return from === 'hand' && !bent ? (before?.value ?? 'profile') : from;
    },
  });

  protected readonly focalSources = computed<readonly Segment[]>(() => [
    this.session.picture()?.focal35
      ? { value: 'metadata', label: 'metadata', hint: 'What the camera wrote into the file' }
      : { value: 'assumed', label: 'assumed', hint: `The metadata say nothing: ${ASSUMED_FOCAL35} mm until lines or a panel tell` },
    ...(this.profileFocal() === null ? [] : [{ value: 'profile', label: 'profile', hint: 'As it was measured for the lens profile' }]),
    { value: 'typed', label: 'typed', hint: 'Type the 35 mm equivalent' },
    { value: 'references', label: 'solved', hint: 'Solve it together with the stance, from two directions or a panel' },
  ]);
  protected readonly centreSources = computed<readonly Segment[]>(() => [
    ...(this.session.correction()?.camera.centreFrom === 'profile'
      ? [{ value: 'profile', label: 'profile', hint: 'As it was measured for the lens profile' }]
      : []),
    { value: 'middle', label: 'middle', hint: 'The lens looks straight at the middle of the picture' },
    { value: 'typed', label: 'shifted', hint: 'Type how far the lens was shifted' },
    { value: 'references', label: 'solved', hint: 'Solve it from plumb, level and return lines, two of each' },
  ]);

  /** What the profile in use tells of this picture; null without one, or where it does not fit. */
  private readonly profileLens = computed<PictureLens | null>(() => {
    const picture = this.session.picture();
    const id = this.session.correction()?.lens.profile;
    const profile = id ? this.lenses.profiles().find((p) => p.id === id) : undefined;
    try {
      return picture && profile ? lensForPicture(profile, lensFactsOf(picture)) : null;
    } catch (error) {
      // a correction from a file may name a profile that was made for other proportions
      if (error instanceof PlumbError) return null;
      throw error;
    }
  });
  private readonly profileFocal = computed(() => this.profileLens()?.focalPx ?? null);
  protected readonly figures = computed(() => {
    const correction = this.session.correction();
    const readings = this.picture.readings();
    if (!correction || !readings) return null;
    const { camera, picture, lens } = correction;
    const px = focalPxOfCorrection(correction);
    const pxPerMm = focalPxFrom35(1, picture);
    const [cx, cy] = opticalCentreOf(correction);
    const cropped = this.session.picture()?.croppedFrom ?? null;
    const { focal, centre } = readings;
    return {
      flat: camera.flat,
      focalFrom: camera.focalFrom,
      focalWords: FOCAL_WORDS[camera.focalFrom],
      focal35: focal35FromPx(px, picture),
      told35: this.session.picture()?.focal35 ?? ASSUMED_FOCAL35,
      focalPx: `${px.toFixed(0)} px`,
      focalSure: focal && focal.found !== null ? `±${(focal.sd * 100).toFixed(1)} %` : '',
      focalRange: focalRangeWords(correction, readings),
      focalWhyNot: camera.focalFrom === 'references' && focal?.found === null ? focal.why : null,
      centreFrom: camera.centreFrom,
      centrePx: `${cx.toFixed(1)}, ${cy.toFixed(1)} px`,
      shiftUp: (cy - picture.height / 2) / pxPerMm,
      shiftRight: (picture.width / 2 - cx) / pxPerMm,
      centreSure: centre && centre.found !== null ? `±${centre.sd.toFixed(0)} px` : '',
      centreWhyNot: camera.centreFrom === 'references' && centre?.found === null ? centre.why : null,
      cropped: cropped && `${cropped.width} × ${cropped.height}`,
      bend: bendOf(correction),
      edgesCount: lens.edges.length,
      fringes: lens.lateral.red !== 1 || lens.lateral.blue !== 1,
      on: lens.on,
      model: lens.model.kind,
    };
  });

  /** The lens in use and its picture's size, the same ones until either changes: most of what is dragged here leaves the curve alone. */
  private readonly lensMap = computed(() => this.picture.shown()?.warp.lens ?? null);
  private readonly measures = computed(() => this.session.correction()?.picture ?? null);

  /** The percent curve of the lens in use, and how far out it was measured. */
  protected readonly curve = computed(() => {
    const [map, size] = [this.lensMap(), this.measures()];
    if (!map || !size || map.straight) return null;
    const points = distortionCurve(map, size);
    const last = points.at(-1);
    if (!last) return null;
    const television = televisionDistortion(map, size);
    const reach = this.reach();
    const signed = (percent: number): string => `${percent > 0 ? '+' : '−'}${Math.abs(percent).toFixed(2)} %`;
    return {
      lines: [{ name: 'distortion', x: points.map((p) => p.height), y: points.map((p) => p.percent) }],
      most: last.height,
      measuredTo: reach === null ? null : reach * 100,
      beyond: reach !== null && reach * 100 < last.height - 2 ? (reach * 100).toFixed(0) : null,
      corner: `corner ${signed(last.percent)}`,
      television: television === null ? '–' : signed(television),
    };
  });

  /** Largest measured radius, half diagonals; null where nothing was measured. */
  private readonly reach = computed(() => {
    const correction = this.session.correction();
    if (!correction) return null;
    if (correction.lens.from === 'edges') return edgeCalibrationOf(correction).found?.reach ?? null;
    return this.profileLens()?.reach ?? null;
  });

  protected chooseWay(way: string): void {
    const correction = this.session.correction();
    if (!correction) return;
    if (way !== 'edges' && this.hand.tool() === 'trace') this.hand.layDown();
    // with edges traced already they take over; else choosing only opens the controls, and nothing changes on the picture
    if (way === 'edges' && correction.lens.edges.length > 0 && correction.lens.from !== 'edges') this.session.commit(withLensFromEdges);
    if (way === 'edges' && this.hand.tool() !== 'trace') this.box.take('trace');
    this.way.set(way as Way);
  }

  protected drawOn(value: string): void {
    this.switches.drawOn(value as 'result' | 'original');
  }

  protected chooseFocal(from: string): void {
    const focal35 = this.session.picture()?.focal35 ?? null;
    this.session.commit((c) => {
      const known =
        from === 'metadata' || from === 'assumed'
          ? focalPxFrom35(focal35 ?? ASSUMED_FOCAL35, c.picture)
          : from === 'profile'
            ? (this.profileFocal() ?? focalPxOfCorrection(c))
            : focalPxOfCorrection(c);
      return withCamera(c, { camera: { focalFrom: from as Correction['camera']['focalFrom'], focalPx: known } });
    });
  }

  private focal(focal35: number): (c: Correction) => Correction {
    return (c) => withCamera(c, { camera: { focalFrom: 'typed', focalPx: focalPxFrom35(focal35, c.picture) } });
  }

  protected previewFocal(focal35: number): void {
    this.picture.preview(this.focal(focal35));
  }

  protected commitFocal(focal35: number): void {
    this.session.commit(this.focal(focal35));
  }

  protected chooseCentre(from: string): void {
    this.session.commit((c) => {
      const { centre: _dropped, ...rest } = c.camera;
      const camera: Correction['camera'] = { ...rest, centreFrom: from as Correction['camera']['centreFrom'] };
      return withCamera({ ...c, camera: from === 'middle' ? camera : { ...camera, centre: [...opticalCentreOf(c)] } }, {});
    });
  }

  private shift(axis: 'up' | 'right', mm: number): (c: Correction) => Correction {
    return (c) => {
      const { width, height } = c.picture;
      const [cx, cy] = opticalCentreOf(c);
      const by = mm * focalPxFrom35(1, c.picture);
      // a lens raised against the picture looks at a point below the picture's middle
      const centre: [number, number] = axis === 'up' ? [cx, height / 2 + by] : [width / 2 - by, cy];
      return withCamera(c, { camera: { centre, centreFrom: 'typed' } });
    };
  }

  protected previewShift(axis: 'up' | 'right', mm: number): void {
    this.picture.preview(this.shift(axis, mm));
  }

  protected commitShift(axis: 'up' | 'right', mm: number): void {
    this.session.commit(this.shift(axis, mm));
  }

  protected previewBend(percent: number): void {
    this.picture.preview((c) => withBend(c, percent));
  }

  protected commitBend(percent: number): void {
    this.session.commit((c) => withBend(c, percent));
  }

  protected switchLens(): void {
    this.session.commit((c) => withCamera(c, { lens: { on: !c.lens.on } }));
  }

  protected reset(): void {
    const picture = this.session.picture();
    if (!picture) return;
    const { focal35 } = picture;
    this.session.commit((c) => {
      const { centre: _dropped, ...camera } = c.camera;
      const told = toldFocal(focal35, c.picture);
      return this.lenses.withFound(withoutLens({ ...c, camera: { ...camera, ...told, centreFrom: 'middle' } }, told), picture);
    });
  }
}
