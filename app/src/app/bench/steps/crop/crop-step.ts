import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatTooltip } from '@angular/material/tooltip';
import { Store } from '@ngrx/store';
import {
  boundsOf,
  cutPointedAt,
  kindNames,
  parseProportion,
  PROPORTIONS,
  SETTING_OUT,
  settingOutLines,
  settingOutPath,
  trimChoices,
  turnProportion,
  withEmptyEdges,
  withRatio,
  withTrim,
  type Correction,
  type Crop,
  type SettingOutName,
  type Warp,
} from '@able-plumb/core';
import { shelfActions } from '../../../state/shelf.actions';
import { Amount } from '../../../ui/amount';
import { Icon } from '../../../ui/icon';
import { Segments, type Segment } from '../../../ui/segments';
import { BenchSwitches } from '../../session/bench-switches';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { StageView } from '../../session/stage-view';
import { CropCentre } from './crop-centre';
import { CropFill } from './crop-fill';
import { CropKeep } from './crop-keep';
import { CropSize } from './crop-size';
import { Tip } from '../../../keys/tip';
import { NumberField } from '../../../ui/number-field';
import { TextField } from '../../../ui/text-field';

const AROUND: Readonly<Record<Crop['around'], string>> = {
  picture: 'the picture',
  lines: 'the lines',
  frame: 'the frame',
  keep: 'keep boxes',
  panel: 'the panel',
};

/** Crop: empty edges, proportions, trims with what each keeps. */
@Component({
  selector: 'ap-crop-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Amount,
    CropCentre,
    CropFill,
    CropKeep,
    CropSize,
    Icon,
    MatButton,
    MatButtonToggle,
    MatButtonToggleGroup,
    MatCheckbox,
    MatTooltip,
    NumberField,
    Segments,
    TextField,
    Tip,
  ],
  templateUrl: './crop-step.html',
  styleUrl: './crop.scss',
})
export class CropStep {
  private readonly store = inject(Store);
  protected readonly session = inject(PictureSession);
  protected readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  private readonly stageView = inject(StageView);

  protected readonly edges: readonly Segment[] = [
    { value: 'clear', label: 'clear', hint: 'The crop never holds an empty edge' },
    { value: 'keep', label: 'kept', hint: 'Empty edges stay: transparent, or the chosen colour' },
    { value: 'fill', label: 'filled', hint: 'Empty edges are continued from the picture’s own surroundings' },
  ];

  protected readonly crop = computed(() => this.session.correction()?.crop ?? null);

  /** The picture's own crop, and those of its deliveries that have proportions of their own. */
  protected readonly crops = computed<readonly Segment[]>(() => [
    { value: '', label: 'the picture’s' },
    ...this.session.shapedDeliveries().map((d) => ({ value: d.id, label: d.name })),
  ]);
  protected readonly ownRect = computed(() => this.session.own()?.deliveries.find((d) => d.id === this.session.delivery()?.id)?.rect);

  protected lookAt(id: string): void {
    this.session.delivery.set(this.session.shapedDeliveries().find((d) => d.id === id) ?? null);
  }

  /** A delivery's crop from the picture's again. */
  protected automatic(): void {
    this.session.commit((c) => withTrim(c, {}));
  }

  protected readonly proportions = computed(() => {
    const ratio = this.crop()?.ratio;
    const own = this.switches.settings().ownProportions;
    const is = (value: Crop['ratio']): boolean =>
      value === ratio || (typeof value === 'number' && typeof ratio === 'number' && Math.abs(value * ratio - 1) < 1e-9);
    return [
      ...PROPORTIONS.map((p) => ({ ...p, own: false, chosen: is(p.ratio) })),
      ...own.map((p) => ({ name: p.name, ratio: p.ratio as Crop['ratio'], own: true, chosen: is(p.ratio) })),
    ];
  });

  protected readonly chosenProportion = computed(() => this.proportions().find((p) => p.chosen)?.ratio ?? null);

  /** The ways of setting out, each with its own small picture in the attitude it has. */
  protected readonly ways = computed(() => {
    const { parts, attitude } = this.switches.settings().settingOut;
    return (Object.keys(SETTING_OUT) as SettingOutName[]).map((key) => ({
      key,
      name: SETTING_OUT[key].name,
      path: settingOutPath(settingOutLines(key, parts, attitude), { x: 1, y: 1, width: 46, height: 30 }),
    }));
  });
  protected readonly canTurnLines = computed(() => SETTING_OUT[this.switches.settings().settingOut.name].attitudes > 1);

  protected setOut(name: SettingOutName): void {
    this.switches.changeSettingOut({ name });
  }

  protected turnLines(): void {
    this.switches.changeSettingOut({ attitude: this.switches.settings().settingOut.attitude + 1 });
  }

  protected peg(): void {
    this.switches.changeSettingOut({ peg: !this.switches.settings().settingOut.peg });
  }

  protected readonly canTurn = computed(() => this.crop()?.ratio !== 'free');

  /** What can be trimmed to; while something moves it stays what it was before, since looking for all of them takes longer than a frame. */
  protected readonly trims = linkedSignal({
    source: () =>
      this.session.gestureActive() ? null : { correction: this.session.correction(), warp: this.picture.shown()?.warp ?? null },
    computation: (source, before?: { readonly value: ReturnType<CropStep['trimsOf']> }) =>
      source ? this.trimsOf(source.correction, source.warp) : (before?.value ?? []),
  });

  protected readonly chosenTrim = computed(() => this.trims().find((t) => t.chosen)?.key ?? null);

  private trimsOf(correction: Correction | null, warp: Warp | null) {
    if (!correction || !warp) return [];
    const outline = warp.outline;
    const bounds = boundsOf(outline);
    const margin = Math.max(bounds.width, bounds.height) * 0.06;
    const box = `${bounds.x - margin} ${bounds.y - margin} ${bounds.width + 2 * margin} ${bounds.height + 2 * margin}`;
    const points = outline.map((p) => p.join(',')).join(' ');
    const { crop } = correction;
    const choices = trimChoices(correction, warp);
    // without lines the largest crop is the one around them
    const around = crop.around === 'lines' && !choices.some((c) => c.around === 'lines') ? 'picture' : crop.around;
    return choices.map((choice) => ({
      ...choice,
      key: `${choice.edges}-${choice.around}`,
      box,
      points,
      name: AROUND[choice.around],
      size: choice.size ? `${((choice.size.width * choice.size.height) / 1e6).toFixed(1)} MP` : '',
      line: choice.rect ? `${choice.edges === 'clear' ? 'clear' : 'edges kept'}, ${(choice.kept * 100).toFixed(0)} %` : 'not possible',
      chosen: !crop.rect && crop.edges === choice.edges && around === choice.around,
    }));
  }

  /** Whether the crop set by hand holds empty edges and is therefore shrunk. */
  protected readonly beyond = computed(() => {
    const crop = this.crop();
    const used = this.picture.shown()?.warp.crop;
    return !!crop?.rect && !!used && crop.edges === 'clear' && !this.session.gestureActive() && used.width < crop.rect.width - 0.5;
  });

  /** What was pointed at and is cut by a trim found by itself, in words; empty for nothing. */
  protected readonly cutLines = computed(() => {
    const shown = this.picture.shown();
    const readings = this.picture.readings();
    if (
      !shown ||
      !readings ||
      this.crop()?.rect ||
      this.crop()?.edges !== 'clear' ||
      this.crop()?.around !== 'lines' ||
      this.session.gestureActive()
    )
      return '';
    const cut = cutPointedAt(shown.correction, shown.warp, shown.warp.crop);
    const names = kindNames(shown.correction.stance.front);
    const words = [
      ...readings.references.filter((r) => cut.includes(r.id)).map((r) => `${names[r.kind].toLowerCase()} ${r.number}`),
      ...readings.panels.filter((p) => cut.includes(p.id)).map((p) => `panel ${p.number}`),
    ];
    return words.length === 0
      ? ''
      : `Clear of empty edges the crop cuts into what ${words.join(', ')} ${words.length === 1 ? 'lies' : 'lie'} on. Kept edges, a crop by hand or less taken out would keep it.`;
  });

  protected shade(percent: number): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { shade: percent / 100 } }));
  }

  protected setEdges(value: string): void {
    this.session.commit((c) => withEmptyEdges(c, value as Crop['edges']));
  }

  protected setRatio(ratio: Crop['ratio']): void {
    this.session.commit((c) => withRatio(c, ratio));
  }

  protected turn(): void {
    this.session.commit(turnProportion);
  }

  protected trim(key: string): void {
    const choice = this.trims().find((t) => t.key === key);
    if (choice) this.session.commit((c) => withTrim(c, { edges: choice.edges, around: choice.around }));
  }

  protected readonly checkOwn = (text: string): string | null =>
    text.trim() === '' || parseProportion(text) !== null ? null : 'Type two numbers, such as 6:2 or 7 x 3, or one, such as 1.85.';

  protected addOwn(text: string): void {
    const ratio = parseProportion(text);
    if (ratio === null) return;
    const name = text.trim().replace(/\s*[x×/]\s*/, ':');
    const own = this.switches.settings().ownProportions;
    if (![...PROPORTIONS, ...own].some((p) => p.ratio === ratio))
      this.store.dispatch(shelfActions.settingsChanged({ change: { ownProportions: [...own, { name, ratio }] } }));
    this.setRatio(ratio);
  }

  protected removeOwn(name: string): void {
    const own = this.switches.settings().ownProportions.filter((p) => p.name !== name);
    this.store.dispatch(shelfActions.settingsChanged({ change: { ownProportions: own } }));
  }

  protected reset(): void {
    this.stageView.fit();
    this.session.commit((c) => withTrim(c, { edges: 'clear', around: 'lines', ratio: 'as-taken' }));
  }
}
