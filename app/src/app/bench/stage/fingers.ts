/** Fingers on the stage: one draws, two zoom and pan, until all of them are gone. */
export class Fingers {
  private readonly down = new Set<number>();
  private two = false;

  /** A finger comes down; true where it is not the first, and what that had begun is to be taken back. */
  press(pointerId: number): boolean {
    this.down.add(pointerId);
    return this.down.size > 1;
  }

  /** From now on they zoom; false where they did already. */
  pinch(): boolean {
    const first = !this.two;
    this.two = true;
    return first;
  }

  /** Whether a pointer that moves, or is `gone`, is one of those that zoom. */
  zooms({ pointerId, pointerType }: PointerEvent, gone = false): boolean {
    if (gone) this.down.delete(pointerId);
    const zooms = this.two && pointerType === 'touch';
    if (this.down.size === 0) this.two = false;
    return zooms;
  }

  /** Nothing is known of any finger any more. */
  forget(): void {
    this.down.clear();
    this.two = false;
  }
}
