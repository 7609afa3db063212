import type { Panel } from '../correction/schema';
import type { Point } from '../picture/point';

/** What a panel was pointed at with, picture px: its corners, or the ends of its edges. */
export const panelPoints = ({ corners, edges }: Panel): readonly Point[] => edges?.flat() ?? corners ?? [];
