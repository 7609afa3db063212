import type { KeyAction } from '../../keys/key-rows';
import type { SheetDesk } from './sheet-desk';

/** Keys of the bench that mean nothing on a sheet; steps and tools know by themselves. */
const BENCH_ONLY: ReadonlySet<KeyAction> = new Set(['compare', 'setting-out']);

/** What a key asks for on a sheet; false where it means nothing there, null where it means the same as on the bench. */
export function actOnSheet(desk: SheetDesk, action: KeyAction): boolean | null {
  if (BENCH_ONLY.has(action)) return false;
  switch (action) {
    case 'suggestion':
      return desk.next();
    case 'join':
      desk.join();
      return true;
    case 'quarter-left':
    case 'quarter-right':
      desk.turn(action === 'quarter-left' ? -1 : 1);
      return true;
    case 'remove':
      return desk.remove();
    default:
      return null;
  }
}
