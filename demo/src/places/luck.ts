import { dice } from '../../../core/tools/random-scenes';
import type { Light } from './surfaces';

/** Choices that a seed makes. */
export class Luck {
  private readonly dice;

  constructor(seed: number) {
    this.dice = dice(seed);
  }

  /** Uniform in [0, 1). */
  next(): number {
    return this.dice.uniform();
  }

  /** Deviation 1. */
  normal(): number {
    return this.dice.normal();
  }

  between(low: number, high: number): number {
    return low + (high - low) * this.next();
  }

  whole(low: number, high: number): number {
    return Math.floor(this.between(low, high + 1));
  }

  chance(share: number): boolean {
    return this.next() < share;
  }

  /** A greyish colour of some brightness, a little warm or cold. */
  tone(low: number, high: number): Light {
    const v = this.between(low, high);
    return [v * this.between(0.92, 1.12), v, v * this.between(0.8, 1.02)];
  }
}
