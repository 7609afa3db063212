import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import {
  ASSUMED_FOCAL35,
  bendOf,
  focal35FromPx,
  focalPxFrom35,
  focalPxOfCorrection,
  opticalCentreOf,
  withBend,
  withCamera,
  type Correction,
} from '@able-plumb/core';
import { Amount } from '../../ui/amount';
import { Segments, type Segment } from '../../ui/segments';
import { BenchModel } from '../bench-model';

const FOCAL_WORDS: Readonly<Record<Correction['camera']['focalFrom'], string>> = {
  metadata: 'from the metadata',
  profile: 'from the lens profile',
  references: 'solved from what was pointed at',
  typed: 'typed',
  assumed: 'assumed: the metadata say nothing',
};

/** Lens: focal length and optical centre with where each came from, and distortion by hand. */
@Component({
  selector: 'ap-lens-knot',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Amount, Segments],
  templateUrl: './lens-knot.html',
  styleUrl: './knot.scss',
})
export class LensKnot {
  protected readonly model = inject(BenchModel);

  protected readonly focalSources = computed<readonly Segment[]>(() => [
    this.model.picture()?.focal35
      ? { value: 'metadata', label: 'metadata', hint: 'What the camera wrote into the file' }
      : { value: 'assumed', label: 'assumed', hint: `The metadata say nothing: ${ASSUMED_FOCAL35} mm until lines or a panel tell` },
    { value: 'typed', label: 'typed', hint: 'Type the 35 mm equivalent' },
    { value: 'references', label: 'solved', hint: 'Solve it together with the stance, from two directions or a panel' },
  ]);
  protected readonly centreSources: readonly Segment[] = [
    { value: 'middle', label: 'middle', hint: 'The lens looks straight at the middle of the picture' },
    { value: 'typed', label: 'shifted', hint: 'Type how far the lens was shifted' },
    { value: 'references', label: 'solved', hint: 'Solve it from plumb, level and return lines, two of each' },
  ];

  protected readonly figures = computed(() => {
    const correction = this.model.correction();
    const readings = this.model.readings();
    if (!correction || !readings) return null;
    const { camera, picture, lens } = correction;
    const px = focalPxOfCorrection(correction);
    const pxPerMm = focalPxFrom35(1, picture);
    const [cx, cy] = opticalCentreOf(correction);
    const cropped = this.model.picture()?.croppedFrom ?? null;
    const { focal, centre } = readings;
    return {
      flat: camera.flat,
      focalFrom: camera.focalFrom,
      focalWords: FOCAL_WORDS[camera.focalFrom],
      focal35: focal35FromPx(px, picture),
      told35: this.model.picture()?.focal35 ?? ASSUMED_FOCAL35,
      focalPx: `${px.toFixed(0)} px`,
      focalSure: focal && focal.found !== null ? `±${(focal.sd * 100).toFixed(1)} %` : '',
      focalWhyNot: camera.focalFrom === 'references' && focal?.found === null ? focal.why : null,
      centreFrom: camera.centreFrom,
      centrePx: `${cx.toFixed(1)}, ${cy.toFixed(1)} px`,
      shiftUp: (cy - picture.height / 2) / pxPerMm,
      shiftRight: (picture.width / 2 - cx) / pxPerMm,
      centreSure: centre && centre.found !== null ? `±${centre.sd.toFixed(0)} px` : '',
      centreWhyNot: camera.centreFrom === 'references' && centre?.found === null ? centre.why : null,
      cropped: cropped && `${cropped.width} × ${cropped.height}`,
      bend: bendOf(correction),
      on: lens.on,
      model: lens.model.kind,
    };
  });

  protected chooseFocal(from: string): void {
    const focal35 = this.model.picture()?.focal35 ?? null;
    this.model.commit((c) => {
      const known =
        from === 'metadata' || from === 'assumed' ? focalPxFrom35(focal35 ?? ASSUMED_FOCAL35, c.picture) : focalPxOfCorrection(c);
      return withCamera(c, { camera: { focalFrom: from as Correction['camera']['focalFrom'], focalPx: known } });
    });
  }

  private focal(focal35: number): (c: Correction) => Correction {
    return (c) => withCamera(c, { camera: { focalFrom: 'typed', focalPx: focalPxFrom35(focal35, c.picture) } });
  }

  protected previewFocal(focal35: number): void {
    this.model.preview(this.focal(focal35));
  }

  protected commitFocal(focal35: number): void {
    this.model.commit(this.focal(focal35));
  }

  protected chooseCentre(from: string): void {
    this.model.commit((c) => {
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
    this.model.preview(this.shift(axis, mm));
  }

  protected commitShift(axis: 'up' | 'right', mm: number): void {
    this.model.commit(this.shift(axis, mm));
  }

  protected previewBend(percent: number): void {
    this.model.preview((c) => withBend(c, percent));
  }

  protected commitBend(percent: number): void {
    this.model.commit((c) => withBend(c, percent));
  }

  protected switchLens(): void {
    this.model.commit((c) => withCamera(c, { lens: { on: !c.lens.on } }));
  }

  protected reset(): void {
    const focal35 = this.model.picture()?.focal35 ?? null;
    this.model.commit((c) => {
      const { centre: _dropped, ...camera } = c.camera;
      const plain: Correction['camera'] = {
        ...camera,
        focalPx: focalPxFrom35(focal35 ?? ASSUMED_FOCAL35, c.picture),
        focalFrom: focal35 === null ? 'assumed' : 'metadata',
        centreFrom: 'middle',
      };
      return withCamera({ ...c, camera: plain }, { lens: { on: true, profile: null, model: { kind: 'none' } } });
    });
  }
}
