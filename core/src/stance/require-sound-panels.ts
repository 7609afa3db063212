import type { Correction } from '../correction/schema';
import { solvePanel } from './panel';

/**
 * Refuses a correction whose panel decides the stance and cannot: a file made from it would be the picture as if nothing had been asked.
 * @throws DegeneratePanelError of the first such panel, where no other one can be solved
 */
export function requireSoundPanels(correction: Correction): void {
  if (correction.stance.from !== 'panel') return;
  let first: unknown = null;
  for (const panel of correction.panels) {
    if (!panel.used) continue;
    try {
      solvePanel(correction, correction.picture, panel);
      return;
    } catch (error) {
      first ??= error;
    }
  }
  if (first !== null) throw first as Error;
}
