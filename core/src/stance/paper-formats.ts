import type { PaperName } from '../correction/paper-names';

/**
 * Trimmed sizes, shorter side first, mm.
 * Source: ISO 216 (A and B), ASME Y14.1 / ANSI Letter and Legal in inches, ISO/IEC 7810 (ID-1); from memory.
 */
const SHORT_AND_LONG_MM: Readonly<Record<PaperName, readonly [number, number]>> = {
  A0: [841, 1189],
  A1: [594, 841],
  A2: [420, 594],
  A3: [297, 420],
  A4: [210, 297],
  A5: [148, 210],
  A6: [105, 148],
  B3: [353, 500],
  B4: [250, 353],
  B5: [176, 250],
  Letter: [8.5 * 25.4, 11 * 25.4],
  Legal: [8.5 * 25.4, 14 * 25.4],
  'ID-1': [53.98, 85.6],
};

/** A format's size, mm, tall or wide as it is seen: `seenRatio` is the width / height that the corners give. */
export function paperSizeMm(paper: PaperName, seenRatio: number): { readonly width: number; readonly height: number } {
  const [short, long] = SHORT_AND_LONG_MM[paper];
  return seenRatio > 1 ? { width: long, height: short } : { width: short, height: long };
}
