import { ChangeDetectionStrategy, Component, computed, effect, inject, untracked } from '@angular/core';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatProgressBar } from '@angular/material/progress-bar';
import { PIECE_NAME_WORDS } from '@able-plumb/core';
import { Tip } from '../../keys/tip';
import { Icon } from '../../ui/icon';
import { NumberField } from '../../ui/number-field';
import { Segments, type Segment } from '../../ui/segments';
import { TextField } from '../../ui/text-field';
import { Hand } from '../session/hand';
import { SheetDesk } from './sheet-desk';
import { ToolBox } from '../tool-box';

const TAKEN: readonly Segment[] = [
  { value: 'scanned', label: 'scanned', hint: 'Pieces are turned by their sides' },
  { value: 'photographed', label: 'photographed', hint: 'Pieces are squared by their corners, with true proportions' },
];
const BORDERS: readonly Segment[] = [
  { value: 'with', label: 'with its border' },
  { value: 'inside', label: 'inside its border', hint: 'Where a white margin was found; else the whole print' },
];
const UNITS: readonly Segment[] = [
  { value: 'mm', label: 'mm' },
  { value: 'px', label: 'px' },
];

/** What is set for a sheet: how it was taken, what of a print becomes of it, names; tools for its outlines; splitting. */
@Component({
  selector: 'ap-sheet-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatButton, MatIconButton, MatProgressBar, NumberField, Segments, TextField, Tip],
  templateUrl: './sheet-step.html',
  styleUrl: './sheet-step.scss',
})
export class SheetStep {
  protected readonly desk = inject(SheetDesk);
  protected readonly hand = inject(Hand);
  protected readonly box = inject(ToolBox);
  protected readonly taken = TAKEN;
  protected readonly borders = BORDERS;
  protected readonly units = UNITS;
  protected readonly count = computed(() => this.desk.pieces().length);
  protected readonly withBorders = computed(() => this.desk.sheet().pieces.filter(({ inner }) => inner !== undefined).length);

  constructor() {
    effect(() => {
      const { session } = this.desk;
      // a sheet that was never looked through is, at once
      if (session.loading().state !== 'ready' || !session.own() || this.desk.known()) return;
      untracked(() => void this.desk.find(session.picture()?.focal35 ? 'photographed' : 'scanned'));
    });
  }

  protected take(taken: string): void {
    void this.desk.find(taken === 'photographed' ? 'photographed' : 'scanned');
  }

  protected readonly named = (pattern: string): string | null => {
    const [, unknown] =
      [...pattern.matchAll(/\{([^{}]*)\}/g)].find(([, word]) => !(PIECE_NAME_WORDS as readonly string[]).includes(word ?? '')) ?? [];
    if (unknown !== undefined) return `{${unknown}} stands for nothing here; {sheet} and {number} do.`;
    return pattern.includes('{number}') ? null : 'Without {number} all of them would have one name.';
  };

  protected inset(value: number): void {
    this.desk.change({ inset: { ...this.desk.sheet().inset, value } });
  }

  protected insetUnit(unit: string): void {
    this.desk.change({ inset: { ...this.desk.sheet().inset, unit: unit === 'px' ? 'px' : 'mm' } });
  }

  protected cut(): void {
    this.box.toggle('cut');
  }

  protected outline(): void {
    this.box.toggle('panel');
  }
}
