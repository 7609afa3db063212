/** Paper and card formats that a panel's size can be given by. */
export const PAPER_NAMES = ['A0', 'A1', 'A2', 'A3', 'A4', 'A5', 'A6', 'B3', 'B4', 'B5', 'Letter', 'Legal', 'ID-1'] as const;
export type PaperName = (typeof PAPER_NAMES)[number];
