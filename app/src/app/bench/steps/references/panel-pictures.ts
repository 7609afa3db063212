import { ofPanelAlone } from '@able-plumb/core';
import type { JobKeeper } from '../../../keeper/job-keeper';
import type { Picture } from '../../../state/model';
import type { PictureSession } from '../../session/picture-session';

/** Makes a picture of its own in the job of one panel: from the same original, with this panel alone. Null when the original is gone. */
export async function pictureOfPanel(session: PictureSession, keeper: JobKeeper, panelId: string): Promise<Picture | null> {
  const picture = session.picture();
  const correction = session.committed();
  const index = correction?.panels.findIndex((p) => p.id === panelId) ?? -1;
  if (!picture || !correction || index < 0) return null;
  const name = picture.name.replace(/(\.[^.]*)?$/, (ending) => `, panel ${index + 1}${ending}`);
  return keeper.addCopy(picture, name, ofPanelAlone(correction, panelId));
}
