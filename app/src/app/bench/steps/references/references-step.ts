import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { MatSortModule, type Sort } from '@angular/material/sort';
import { MatTableModule } from '@angular/material/table';
import { MatTooltip } from '@angular/material/tooltip';
import {
  borderReference,
  bowLeft,
  degreesText,
  focalMm,
  focalPxOfCorrection,
  focalRangeWords,
  givesScale,
  kindNames,
  lineAngleInWords,
  withCamera,
  withDecider,
  withFront,
  withLineAsEdge,
  withPanels,
  withReference,
  withReferences,
  type Correction,
  type FollowedEdge,
  type ReferenceKind,
  type ReferenceReading,
  type Remedy,
  type Stance,
} from '@able-plumb/core';
import { Passing } from '../../../ui/passing';
import { JobKeeper } from '../../../keeper/job-keeper';
import { Icon } from '../../../ui/icon';
import { WORDS } from '../../../ui/words';
import { Segments, type Segment } from '../../../ui/segments';
import { BenchSwitches } from '../../session/bench-switches';
import { Found } from '../../session/found';
import { Hand } from '../../session/hand';
import { Magnet } from '../../session/magnet';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { ToolBox } from '../../tool-box';
import { ToolButton } from '../../tool-button';
import { buttonsOf } from '../../tools';
import { PanelCard } from './panel-card';
import { pictureOfPanel } from './panel-pictures';
import { SuggestionRow } from './suggestion-row';
import { Tip } from '../../../keys/tip';
import { NumberField } from '../../../ui/number-field';

/** An edge that bows more than this should not be trusted before the lens is corrected, px. */
const LENS_BOW_PX = 4;
/** An edge seen along less of a line is worth a word. */
const WHOLE_SHARE = 0.9;

interface Row {
  readonly id: string;
  readonly kind: ReferenceKind;
  readonly name: string;
  readonly used: boolean;
  /** Found in the picture, not drawn. */
  readonly found: boolean;
  /** Why it does not count; empty where it does. */
  readonly silent: string;
  readonly before: string;
  readonly after: string;
  readonly off: string;
  readonly bad: boolean;
  readonly disagrees: boolean;
  /** For sorting, degrees; what is set aside comes last. */
  readonly offDeg: number;
}

const KINDS: readonly { readonly kind: ReferenceKind; readonly means: string }[] = [
  { kind: 'plumb', means: 'vertical in reality' },
  { kind: 'level', means: 'horizontal, along the front' },
  { kind: 'return', means: 'horizontal, going back from the front' },
  { kind: 'eye', means: 'the horizon, at the camera’s height' },
];

/** References: the pen, what the lines may do, and the list of lines. */
@Component({
  selector: 'ap-references-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Icon,
    MatButton,
    MatCheckbox,
    MatIconButton,
    MatMenu,
    MatMenuItem,
    MatMenuTrigger,
    MatSortModule,
    MatTableModule,
    MatTooltip,
    NumberField,
    PanelCard,
    Segments,
    SuggestionRow,
    Tip,
    ToolButton,
  ],
  templateUrl: './references-step.html',
  styleUrl: './references.scss',
})
export class ReferencesStep {
  private readonly box = inject(ToolBox);
  private readonly keeper = inject(JobKeeper);
  private readonly passing = inject(Passing);
  protected readonly session = inject(PictureSession);
  protected readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  protected readonly hand = inject(Hand);
  protected readonly magnet = inject(Magnet);
  protected readonly found = inject(Found);

  /** Kinds by what they are called before this front, with what each means. */
  protected readonly kinds = computed(() => {
    const names = this.names();
    const front = this.front();
    return KINDS.map(({ kind, means }) => ({ kind, name: names[kind], means: front === 'wall' ? means : '' }));
  });
  protected readonly front = computed(() => this.session.correction()?.stance.front ?? 'wall');
  private readonly names = computed(() => kindNames(this.front()));
  protected readonly tools = buttonsOf('references');
  protected readonly sides: readonly Segment[] = [
    { value: 'result', label: 'result', hint: 'Draw on the corrected picture' },
    { value: 'original', label: 'original', hint: 'Draw on the original' },
  ];
  protected readonly mays: readonly Segment[] = [
    { value: 'turn-only', label: 'turn only', hint: 'The lines may only turn the picture; convergence stays' },
    { value: 'stand-plumb', label: 'stand plumb', hint: 'The lines may turn the picture and stand verticals plumb' },
    { value: 'square-on', label: 'square-on', hint: 'The lines may do everything they determine' },
  ];

  protected readonly words = WORDS;
  /** What is folded away, in words: there are lines, or no suggestion was wanted. Empty for nothing. */
  protected readonly foldedAway = computed(() => {
    const { found } = this;
    const count = (this.drawn() >= 2 || found.refused()) && !found.unfolded() ? found.suggestions().length : 0;
    return count === 0 ? '' : `${count} ${count === 1 ? 'suggestion' : 'suggestions'} of the picture’s own`;
  });
  /** Lines that are there, whatever is looked at meanwhile. */
  protected readonly drawn = computed(() => this.session.committed()?.references.length ?? 0);
  /** Front and what the lines may do fold into one line once there are lines, until they are asked for. */
  protected readonly unfolded = signal(false);
  protected readonly folded = computed(() => this.rows().length > 0 && !this.unfolded());
  protected readonly said = computed(() => {
    const may = this.session.correction()?.stance.may ?? 'square-on';
    const front = this.front();
    return { front, may: front === 'sheet' ? 'turn only' : (this.mays.find((m) => m.value === may)?.label ?? may) };
  });

  /** What a kind of line is; on floors, ceilings and sheets the kinds are called by where they lie. */
  protected kindWords(kind: ReferenceKind): string {
    return this.front() === 'wall' ? WORDS[kind] : '';
  }

  protected readonly sides4 = ['top', 'right', 'bottom', 'left'] as const;
  protected readonly columns = ['line', 'before', 'after', 'off', 'acts'];
  protected readonly byId = (_: number, row: Row): string => row.id;
  /** In the order of drawing, or the worst first. */
  protected readonly order = signal<Sort>({ active: 'line', direction: 'asc' });
  protected readonly rows = computed<readonly Row[]>(() => {
    const found = new Set(
      this.session
        .correction()
        ?.references.filter(({ by }) => by === 'found')
        .map(({ id }) => id),
    );
    const rows = (this.picture.readings()?.references ?? []).map((r) => toRow(r, this.names()[r.kind], found.has(r.id)));
    const { active, direction } = this.order();
    const sorted = active === 'off' ? rows.sort((p, q) => p.offDeg - q.offDeg) : rows;
    return direction === 'desc' ? sorted.reverse() : sorted;
  });

  /** One plumb and one level line alone, and they do not come out true: what they say was held back. */
  protected readonly unsure = computed(() => {
    const used = this.picture.readings()?.references.filter((r) => r.counts) ?? [];
    return used.length === 2 && used[0]?.kind !== used[1]?.kind && used.some((r) => Math.abs(r.offDeg ?? 0) > 0.05);
  });

  /** The line of the verdict that contradicts the others, and what would explain it. */
  protected readonly disagreeing = computed(() => {
    const [readings, correction] = [this.picture.readings(), this.session.correction()];
    const row = this.rows().find((r) => r.disagrees && r.id === readings?.verdict.line?.id);
    const remedy = readings?.verdict.remedy;
    if (!row || !remedy || !correction) return null;
    switch (remedy.kind) {
      case 'kind':
        return {
          row,
          text: `${row.name} contradicts the others; as a ${this.names()[remedy.to].toLowerCase()} line it would agree.`,
          act: `Make it ${this.names()[remedy.to].toLowerCase()}`,
          remedy,
        };
      case 'focal':
        return {
          row,
          text: `${row.name} contradicts the others; with a focal length of ${focalMm(remedy.focalPx, correction)} mm all would agree.`,
          act: 'Take that length',
          remedy,
        };
      case 'aside':
        return { row, text: `${row.name} contradicts the others.`, act: 'Set it aside', remedy };
    }
  });

  protected explain({ row, remedy }: { readonly row: Row; readonly remedy: Remedy }): void {
    if (remedy.kind === 'focal') this.takeFocal();
    else if (remedy.kind === 'kind') this.setKind(row.id, remedy.to);
    else this.setUsed(row.id, false);
  }

  /** What the lines say of a focal length that is not theirs. */
  protected readonly focalOffer = computed(() => {
    const [readings, correction] = [this.picture.readings(), this.session.correction()];
    const range = readings && correction ? focalRangeWords(correction, readings) : null;
    const said = readings?.focalSaid;
    if (!range || !said || !correction || readings.focal?.found != null || this.disagreeing()?.remedy.kind === 'focal') return null;
    const { focalFrom } = correction.camera;
    if (said.speaksAgainst) {
      const longer = said.best > focalPxOfCorrection(correction) ? 'longer' : 'shorter';
      return { text: `A ${longer} lens would fit these lines better: ${range}.`, tells: said.tells };
    }
    // a length that is known needs no offer while the lines agree with it
    return focalFrom === 'assumed' ? { text: `The focal length is assumed; the lines fit ${range}.`, tells: said.tells } : null;
  });

  protected takeFocal(): void {
    this.session.commit((c) => withCamera(c, { camera: { focalFrom: 'references' } }));
  }

  protected readonly fronts: readonly Segment[] = [
    { value: 'wall', label: 'wall', hint: 'The result faces a wall' },
    { value: 'floor', label: 'floor', hint: 'The result looks straight down on a floor or a table' },
    { value: 'ceiling', label: 'ceiling', hint: 'The result looks straight up at a ceiling' },
    { value: 'sheet', label: 'sheet', hint: 'A scan or a page: lines only turn it' },
  ];

  protected setFront(front: string): void {
    this.session.commit((c) => withFront(c, front as Stance['front']));
  }

  protected addBorder(side: 'top' | 'right' | 'bottom' | 'left'): void {
    this.session.setReferences((references) => [...references, borderReference(this.session.committed() as Correction, side)]);
  }

  protected state(id: string, statedAngle: number): void {
    this.session.commit((c) => withReference(c, id, { statedAngle }));
  }

  protected readonly selected = computed(() => this.session.correction()?.references.find(({ id }) => id === this.hand.id()) ?? null);

  /** What the magnet found for the selected line. */
  protected readonly edge = computed(() => {
    const snapped = this.magnet.snapped();
    const fit = snapped?.fits[snapped.index];
    const row = this.rows().find((r) => r.id === snapped?.id);
    if (!snapped || !row || snapped.id !== this.hand.id()) return null;
    const percent = `${Math.round(snapped.share * 100)} %`;
    if (!fit) return { text: `An edge runs along ${percent} of ${row.name} only, so it stays as it was drawn.`, trace: null, more: '' };
    const correction = this.session.committed();
    // followed from end to end; across a bend the straight fit sees a part only
    const bowPx = (snapped.course && correction && bowLeft(correction, snapped.course.points)) ?? fit.bowPx;
    const bent = bowPx >= LENS_BOW_PX;
    const words = bent ? `bows ${bowPx.toFixed(0)} px: do the lens first, or the line misleads` : `bow ${bowPx.toFixed(1)} px`;
    const seen = snapped.share < WHOLE_SHARE ? `, seen along ${percent} of it` : '';
    return {
      text: `${row.name} lies on its edge${seen}, ${words}.`,
      trace: bent && snapped.course ? { id: snapped.id, edge: snapped.course } : null,
      more: snapped.fits.length > 1 ? `Edge ${snapped.index + 1} of ${snapped.fits.length}` : '',
    };
  });

  /** The line goes, and the bent edge that it was drawn along is traced instead. */
  protected traceInstead({ id, edge }: { readonly id: string; readonly edge: FollowedEdge }): void {
    this.session.commit((c) => withLineAsEdge(c, id, edge.points, edge.bowSdPx));
    this.box.take('trace');
    this.hand.select(this.session.committed()?.lens.edges.at(-1)?.id ?? null);
  }

  protected nextEdge(): void {
    this.magnet.nextEdge();
  }

  protected readonly panels = computed(() => {
    const readings = this.picture.readings()?.panels ?? [];
    return (this.session.correction()?.panels ?? []).flatMap((panel, i) => {
      const reading = readings[i];
      return reading ? [{ panel, reading }] : [];
    });
  });

  protected readonly making = signal(false);

  /** A picture of its own for each panel, the one after the other; said when they are there. */
  protected async pictureOfEach(): Promise<void> {
    this.making.set(true);
    try {
      const made = [];
      for (const { panel } of this.panels()) made.push(await pictureOfPanel(this.session, this.keeper, panel.id));
      const there = made.filter((picture) => picture !== null).length;
      this.passing.say(`${there} pictures more in this job, one of each panel.`);
    } catch (error) {
      this.passing.trouble((error as Error).message);
    } finally {
      this.making.set(false);
    }
  }

  /** Who decides, once both could. */
  protected readonly deciders = computed<readonly Segment[]>(() => {
    const correction = this.session.correction();
    const used = correction?.panels.findIndex((p) => p.used) ?? -1;
    if (!correction || used < 0 || (correction.references.every((r) => !r.used) && correction.panels.filter((p) => p.used).length < 2))
      return [];
    return [
      { value: 'panel', label: `panel ${used + 1} exactly`, hint: 'The first used panel decides; lines are only judged' },
      { value: 'references', label: 'lines and edges', hint: 'All lines and all edges of the panels together, by least squares' },
    ];
  });

  protected decide(from: string): void {
    this.session.commit((c) => withDecider(c, from as 'panel' | 'references'));
  }

  protected readonly measures = computed(() => this.picture.readings()?.measures ?? []);
  protected readonly scaled = computed(() => {
    const correction = this.session.correction();
    return correction !== null && givesScale(correction);
  });

  protected removeMeasure(id: string): void {
    this.session.commit((c) => ({ ...c, measures: c.measures.filter((m) => m.id !== id) }));
  }

  protected drawOn(value: string): void {
    this.switches.drawOn(value as 'result' | 'original');
  }

  protected allow(value: string): void {
    const may = value as 'turn-only' | 'stand-plumb' | 'square-on';
    this.session.commit((c) => withReferences({ ...c, stance: { ...c.stance, may } }, c.references));
  }

  protected setKind(id: string, kind: ReferenceKind): void {
    this.session.commit((c) => withReference(c, id, { kind, waits: undefined }));
  }

  protected setUsed(id: string, used: boolean): void {
    this.session.commit((c) => withReference(c, id, { used, waits: undefined }));
  }

  protected remove(id: string): void {
    this.session.setReferences((references) => references.filter((r) => r.id !== id));
    this.hand.deselect(id);
  }

  protected clear(): void {
    this.session.commit((c) => ({ ...withPanels(withReferences(c, []), []), measures: [] }));
    this.hand.select(null);
  }
}

function toRow(r: ReferenceReading, name: string, found: boolean): Row {
  const off = Math.abs(r.offDeg ?? 0);
  return {
    id: r.id,
    kind: r.kind,
    name: `${name} ${r.number}`,
    used: r.used && !r.waits,
    found,
    silent: r.waits ? 'to be told' : r.used && !r.counts ? 'not counted' : '',
    before: lineAngleInWords(r.kind, r.beforeDeg),
    after: r.afterDeg === null ? '–' : degreesText(r.afterDeg),
    off: r.offPx === null ? '–' : `${r.offPx.toFixed(1)} px`,
    bad: r.disagrees || (r.counts && off >= 0.5),
    disagrees: r.disagrees,
    offDeg: r.counts ? off : -1,
  };
}
