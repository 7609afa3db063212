import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { Point } from '@able-plumb/core';

/** A path that is seen on any ground: a dark core in a light casing. */
@Component({
  selector: 'g[ap-cased]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg:path class="casing" [attr.d]="d()" />
    <svg:path class="core" [attr.d]="d()" />
  `,
})
export class Cased {
  /** SVG path, screen px. */
  readonly d = input.required<string>();
}

/** A small sign with words in it. */
@Component({
  selector: 'g[ap-tag]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { class: 'tag', '[attr.transform]': "'translate(' + at()[0] + ' ' + at()[1] + ')'" },
  template: `
    <svg:rect [attr.x]="-width() / 2" y="-12" [attr.width]="width()" height="24" rx="4" />
    <svg:text y="4.5" text-anchor="middle">
      <svg:tspan [class.strong]="strong()">{{ words() }}</svg:tspan>
      @if (more()) {
        <svg:tspan dx="10">{{ more() }}</svg:tspan>
      }
    </svg:text>
  `,
})
export class Tag {
  /** Its middle, screen px. */
  readonly at = input.required<Point>();
  readonly words = input.required<string>();
  readonly more = input('');
  readonly strong = input(false);
  protected readonly width = computed(() => 18 + 7 * (this.words().length + (this.more() ? this.more().length + 2 : 0)));
}

/** A handle to drag a corner (round) or a side (a bar along it). */
@Component({
  selector: 'g[ap-peg]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '[attr.transform]': "'translate(' + at()[0] + ' ' + at()[1] + ')'" },
  template: `
    @switch (shape()) {
      @case ('corner') {
        <svg:circle class="peg" r="6" />
      }
      @case ('across') {
        <svg:rect class="peg" x="-10" y="-4.5" width="20" height="9" rx="4.5" />
      }
      @case ('down') {
        <svg:rect class="peg" x="-4.5" y="-10" width="9" height="20" rx="4.5" />
      }
    }
  `,
})
export class Peg {
  readonly at = input.required<Point>();
  readonly shape = input.required<'corner' | 'across' | 'down'>();
}
