import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal } from '@angular/core';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatTableModule } from '@angular/material/table';
import { MatTooltip } from '@angular/material/tooltip';
import {
  edgeCalibrationOf,
  focalPxOfCorrection,
  lensFactsOf,
  profileFrom,
  profileRow,
  withEdges,
  withLensFromEdges,
  withProfileRow,
  type FoundLens,
  type LensProfile,
} from '@able-plumb/core';
import { LensKeeper } from '../../../keeper/lens-keeper';
import { Icon } from '../../../ui/icon';
import { BenchSwitches } from '../../session/bench-switches';
import { Hand } from '../../session/hand';
import { Magnet } from '../../session/magnet';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { Tip } from '../../../keys/tip';
import { ToolButton } from '../../tool-button';
import { buttonsOf } from '../../tools';
import { withoutTrace } from '../../tools/trace/trace-handles';

/** The traced edges of the Lens step: their bows, what they say of the lens, and keeping that as a profile. */
@Component({
  selector: 'ap-lens-edges',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatButton, MatIconButton, MatTableModule, MatTooltip, Tip, ToolButton],
  templateUrl: './lens-edges.html',
  styleUrl: './lens.scss',
  host: { class: 'part' },
})
export class LensEdges {
  private readonly session = inject(PictureSession);
  protected readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  protected readonly hand = inject(Hand);
  protected readonly magnet = inject(Magnet);
  private readonly lenses = inject(LensKeeper);

  /** What the committed edges say; while a bead is dragged the last answer stands. */
  private readonly calibration = computed(() => {
    const correction = this.session.committed();
    return correction && correction.lens.edges.length > 0 ? edgeCalibrationOf(correction) : null;
  });

  protected readonly tools = buttonsOf('lens');
  protected readonly columns = ['name', 'before', 'after', 'acts'];
  protected readonly byId = (_: number, row: { readonly id: string }): string => row.id;
  protected readonly rows = computed(() => {
    const odd = new Set(this.calibration()?.found?.disagreeing);
    return (this.picture.readings()?.edges ?? []).map((e) => ({
      id: e.id,
      number: e.number,
      before: `${e.beforePx.toFixed(1)} px`,
      after: e.afterPx === null ? '–' : `${e.afterPx.toFixed(1)} px`,
      odd: odd.has(e.id),
    }));
  });

  protected readonly outcome = computed(() => {
    const outcome = this.calibration();
    const correction = this.session.committed();
    if (!outcome || !correction) return null;
    const decides = correction.lens.from === 'edges';
    if (!outcome.found) return { found: false, decides, odd: '', text: outcome.why };
    const { edges, sigmaPx, cornerPx, cornerSdPx, model, centred, disagreeing, straying } = outcome.found;
    const numbers = this.rows()
      .filter((row) => row.odd)
      .map((row) => row.number);
    const odd =
      disagreeing.length === 0
        ? ''
        : disagreeing.length === 1
          ? `Edge ${numbers[0]} bends otherwise than the others and is not counted. Was it followed onto another edge?`
          : `Edges ${numbers.join(', ')} bend otherwise than the others and are not counted. Were they followed onto other edges?`;
    const astray = (this.picture.readings()?.edges ?? []).filter((e) => straying.includes(e.id)).map((e) => e.number);
    const strays =
      astray.length === 0
        ? ''
        : `${astray.length === 1 ? `Edge ${astray[0]} hardly looks like one edge` : `Edges ${astray.join(', ')} hardly look like one edge each`} and hardly ${astray.length === 1 ? 'counts' : 'count'}: trace one that is clear from end to end.`;
    const kind = cornerPx < 0 ? 'Barrel' : 'Pincushion';
    const from = edges === 1 ? 'one edge' : `${edges} edges`;
    return {
      found: true,
      decides,
      odd: [odd, strays].filter((sentence) => sentence !== '').join(' '),
      text: `${kind}: the corner moves by ${Math.abs(cornerPx).toFixed(0)} ± ${cornerSdPx.toFixed(0)} px; the beads of ${from} lie ${sigmaPx.toFixed(1)} px off straight (${model.kind} model${centred ? ', its centre too' : ''}).${edges < 3 ? ' Three edges or more tell how the bend grows towards the corners.' : ''}`,
    };
  });

  /** The profile that this lens belongs to already. */
  private readonly existing = computed<LensProfile | null>(() => {
    const picture = this.session.picture();
    if (!picture) return null;
    return this.lenses.matches(picture).find((m) => m.camera && m.lens && m.frame)?.profile ?? null;
  });

  protected readonly saving = computed(() => {
    const picture = this.session.picture();
    const existing = this.existing();
    if (!picture) return '';
    const at = picture.focalMm ? ` at ${picture.focalMm} mm` : '';
    if (existing) return `Goes into ${existing.name}${at}.`;
    return picture.lens || picture.camera
      ? `A new profile for ${picture.lens ?? picture.camera}${at}; other pictures of it will find it by themselves.`
      : 'The metadata name no lens: the profile can be chosen by hand, and named in the lens cabinet.';
  });

  /** Said after saving, until the edges change. */
  protected readonly saved = linkedSignal<unknown, string | null>({ source: this.calibration, computation: () => null });

  protected async save(): Promise<void> {
    const picture = this.session.picture();
    const correction = this.session.committed();
    const calibration = this.calibration()?.found;
    if (!picture || !correction || !calibration) return;
    const { focalFrom } = correction.camera;
    const found: FoundLens = {
      model: calibration.model,
      // an assumed focal length is no fact of the lens
      focalPx: focalFrom === 'assumed' ? null : focalPxOfCorrection(correction),
      lateral: correction.lens.lateral,
      reach: calibration.reach,
      madeFrom: `${calibration.edges} traced edges in ${picture.name}, ${calibration.sigmaPx.toFixed(1)} px`,
    };
    const facts = lensFactsOf(picture);
    const existing = this.existing();
    const grown = existing && withProfileRow(existing, profileRow(found, facts));
    const name = picture.lens ?? picture.camera ?? picture.name.replace(/\.[^.]+$/, '');
    const profile = grown ?? profileFrom(found, facts, crypto.randomUUID(), name);
    try {
      await this.lenses.save(profile);
      this.saved.set(`Saved in ${profile.name}.`);
    } catch (error) {
      this.saved.set(`It could not be saved: ${(error as Error).message}. The picture keeps its lens.`);
    }
  }

  protected remove(id: string): void {
    this.session.commit((c) => withoutTrace(c, id));
    this.hand.deselect(id);
  }

  protected decide(): void {
    this.session.commit(withLensFromEdges);
  }

  protected clear(): void {
    this.session.commit((c) => withEdges(c, []));
    this.hand.select(null);
  }
}
