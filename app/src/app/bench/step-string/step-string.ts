import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import {
  bobFigure,
  degreesText,
  FILTERS,
  focal35FromPx,
  focalPxOfCorrection,
  isCounted,
  isEased,
  moves,
  PROPORTIONS,
  stanceInWords,
  takenOutInWords,
  verdictDegrees,
  verdictInWords,
  type Correction,
  type VerdictState,
} from '@able-plumb/core';
import { EXPORT_FORMATS } from '@able-plumb/codecs';
import type { Step } from '../../state/model';
import { WORDS } from '../../ui/words';
import { BenchSwitches } from '../session/bench-switches';
import { Hand } from '../session/hand';
import { PictureSession } from '../session/picture-session';
import { ShownPicture } from '../session/shown-picture';
import type { KeyAction } from '../../keys/key-rows';
import { Tip } from '../../keys/tip';
import { ToolBox } from '../tool-box';

const FOCAL_FROM: Readonly<Record<Correction['camera']['focalFrom'], string>> = {
  metadata: 'metadata',
  profile: 'profile',
  references: 'solved',
  typed: 'typed',
  assumed: 'assumed',
};

const STRAIGHT_BY: Readonly<Record<Correction['lens']['from'], string>> = {
  nobody: 'straightened',
  hand: 'bent by hand',
  profile: 'straight by its profile',
  edges: 'straight by traced edges',
};

/** Where the arc of the doubt runs, px below the string's joint. */
const DOUBT_RADIUS = 121;

/** What Check says before there is a figure. */
const CHECKED: Partial<Record<VerdictState, string>> = { unknown: 'compare with the original', unchecked: 'nothing checks it yet' };

interface StepRow {
  readonly step: Step;
  readonly name: string;
  readonly line: string;
  readonly state: 'untouched' | 'set' | 'attention';
  readonly action: KeyAction;
}

/** The string at the left: the steps as steps in working order, and the bob that hangs as the picture does. */
@Component({
  selector: 'ap-step-string',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Tip],
  host: { role: 'navigation', 'aria-label': 'Steps' },
  templateUrl: './step-string.html',
  styleUrl: './step-string.scss',
})
export class StepString {
  protected readonly box = inject(ToolBox);
  protected readonly words = WORDS;
  private readonly session = inject(PictureSession);
  protected readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  private readonly hand = inject(Hand);

  protected readonly steps = computed<readonly StepRow[]>(() => {
    const correction = this.session.correction();
    const shown = this.picture.shown();
    const readings = this.picture.readings();
    if (!correction) return [];
    const { references, stance, crop, camera, picture, lens } = correction;
    const bent = lens.on && lens.model.kind !== 'none';
    const count = (kind: string): number => references.filter((r) => r.kind === kind && isCounted(r)).length;
    const counted = (['plumb', 'level', 'return', 'eye'] as const)
      .filter((kind) => count(kind) > 0)
      .map((kind) => `${count(kind)} ${kind}`);
    const panels = correction.panels.filter((p) => p.used).length;
    if (panels > 0) counted.push(`${panels} ${panels === 1 ? 'panel' : 'panels'}`);
    const aside = references.filter((r) => !r.used).length;
    if (aside > 0) counted.push(`${aside} set aside`);
    const waiting = references.filter((r) => r.used && !isCounted(r)).length;
    if (waiting > 0) counted.push(`${waiting} to be told`);
    const moved = readings ? Math.hypot(readings.attitude.roll, readings.attitude.tilt, readings.attitude.swing) > 0.005 : false;
    const taken = readings?.verdict.takenOut;
    const takenOut = taken ? `${takenOutInWords(taken)} of ` : '';
    const turned = stance.quarterTurns !== 0 || stance.flipX || stance.flipY;
    const size = shown?.warp.outputSize;
    const proportion =
      PROPORTIONS.find((p) => p.ratio === crop.ratio)?.name ?? (typeof crop.ratio === 'number' ? `${crop.ratio.toFixed(3)} : 1` : '');
    const row = (step: Step, name: string, line: string, state: StepRow['state']): StepRow => ({
      step,
      name,
      line,
      state,
      action: `step-${step}`,
    });
    const choice = this.switches.settings().exportChoice;
    return [
      row(
        'lens',
        'Lens',
        camera.flat
          ? 'a sheet has none'
          : `${focal35FromPx(focalPxOfCorrection(correction), picture).toFixed(1)} mm, ${FOCAL_FROM[camera.focalFrom]}${bent ? `, ${STRAIGHT_BY[lens.from]}` : ''}`,
        bent || camera.focalFrom === 'typed' || camera.centreFrom !== 'middle'
          ? 'set'
          : camera.focalFrom === 'assumed' && !camera.flat
            ? 'attention'
            : 'untouched',
      ),
      row('references', 'References', counted.join(', ') || 'no line yet', counted.length > 0 ? 'set' : 'untouched'),
      row(
        'stance',
        'Stance',
        moved && readings ? `${takenOut}${shortStance(stanceInWords(readings.attitude))}` : turned ? 'turned by quarters' : 'as taken',
        moved || turned ? 'set' : 'untouched',
      ),
      row('ease', 'Ease', easeLine(correction), isEased(correction) ? 'set' : 'untouched'),
      row(
        'crop',
        'Crop',
        `${this.picture.aroundPanel() ? 'the panel' : proportion}, ${EDGES[crop.edges]}`,
        shown?.trouble
          ? 'attention'
          : crop.rect || !(crop.around === 'picture' || crop.around === 'lines') || crop.ratio !== 'as-taken' || crop.edges !== 'clear'
            ? 'set'
            : 'untouched',
      ),
      row(
        'check',
        'Check',
        readings ? (CHECKED[readings.verdict.state] ?? verdictInWords(readings.verdict, correction).main.toLowerCase()) : '',
        'untouched',
      ),
      row(
        'export',
        'Export',
        size ? `${EXPORT_FORMATS[choice.kind].name}, ${size.width} × ${size.height}` : FILTERS[correction.output.filter].sentence,
        'untouched',
      ),
    ];
  });

  /**
   * How the last stretch hangs: as the vertical in the middle of the crop does, magnified; by the line being drawn while one is. What is
   * held back on purpose is said as such, and an arc shows how far it may hang to either side by what is not known.
   */
  protected readonly bob = computed(() => {
    const draft = this.hand.drawing.line();
    const readings = this.picture.readings();
    const side = (deg: number): string => `${degreesText(deg)} ${deg > 0 ? 'left' : 'right'}`;
    if (draft) return { ...bobFigure(draft.angleDeg), label: 'this line', value: side(draft.angleDeg) };
    if (!readings) return { ...bobFigure(0), label: 'no line yet', value: '' };
    const { state, deg, sureDeg } = readings.verdict;
    const [off, held] = [readings.middleOffDeg ?? 0, readings.heldBackDeg];
    const figure = bobFigure(off + held, state === 'unknown' ? 0 : sureDeg);
    switch (state) {
      case 'unknown':
        return { ...figure, label: 'not known yet', value: '' };
      case 'unchecked':
        return { ...figure, label: 'as drawn', value: sureDeg === null ? '' : `± ${verdictDegrees(sureDeg)}` };
      case 'true':
        return { ...figure, label: 'true within', value: verdictDegrees(deg ?? 0) };
      case 'off':
        return { ...figure, label: 'off by', value: verdictDegrees(deg ?? 0) };
      case 'held':
        return { ...figure, label: 'held back', value: verdictDegrees(deg ?? 0) };
    }
  });

  /** The doubt as a slice of a circle about where the string begins to swing. */
  protected readonly doubt = computed(() => {
    const { doubtDeg } = this.bob();
    const at = (deg: number): string => {
      const turn = (deg * Math.PI) / 180;
      return `${(25 - Math.sin(turn) * DOUBT_RADIUS).toFixed(2)} ${(20 + Math.cos(turn) * DOUBT_RADIUS).toFixed(2)}`;
    };
    return doubtDeg < 0.2 ? null : `M${at(-doubtDeg)}A${DOUBT_RADIUS} ${DOUBT_RADIUS} 0 0 1 ${at(doubtDeg)}`;
  });
}

const shortStance = (words: string): string =>
  words
    .replace('Rolled ', 'roll ')
    .replace('rolled ', 'roll ')
    .replace('Looking ', '')
    .replace('turned ', '')
    .replace('anticlockwise', 'anticl.')
    .replace('clockwise', 'clockw.');

const EDGES = { clear: 'clear of edges', keep: 'edges kept', fill: 'edges filled' } as const;

/** What is eased, in one short line. */
function easeLine(correction: Correction): string {
  const { projection, edges, rings, shims } = correction.ease;
  const moving = shims.filter(moves).length;
  const used = edges.filter((e) => e.amount > 0).length;
  const parts = [
    projection > 0 && !correction.camera.flat ? `projection ${(projection * 100).toFixed(0)} %` : '',
    used > 0 ? `${used} ${used === 1 ? 'edge' : 'edges'}` : '',
    moving > 0 ? `${moving} ${moving === 1 ? 'shim' : 'shims'}` : '',
  ].filter((part) => part !== '');
  return parts.join(', ') || (rings.length > 0 ? `${rings.length} ${rings.length === 1 ? 'ring' : 'rings'}` : 'nothing eased');
}
