import type { Readings } from './readings';

/** A field as RFC 4180 has it. */
const field = (value: string | number | null): string => {
  const text = value === null ? '' : String(value);
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
};
const rounded = (value: number | null, digits: number): number | null => (value === null ? null : Number(value.toFixed(digits)));

/**
 * The verdict, references and traced edges as comma-separated values, one a row: what it is, whether it counts (the verdict: its state), angle before and after, how far off in
 * degrees and px, length; for edges the bow before and after. Decimal points, lines end in CR LF (RFC 4180).
 */
export function readingsCsv({ references, edges, verdict }: Pick<Readings, 'references' | 'edges' | 'verdict'>): string {
  const rows: (string | number | null)[][] = [
    [
      'what',
      'number',
      'used',
      'before_deg',
      'after_deg',
      'off_deg',
      'off_px',
      'length_px',
      'bow_before_px',
      'bow_after_px',
      'placed_px',
      'sure_deg',
    ],
    [
      'verdict',
      verdict.line?.number ?? null,
      verdict.state,
      null,
      rounded(verdict.leftDeg, 4),
      rounded(verdict.deg, 4),
      rounded(verdict.line?.px ?? null, 2),
      null,
      null,
      null,
      null,
      rounded(verdict.sureDeg, 4),
    ],
    ...references.map((r) => [
      r.kind,
      r.number,
      r.waits ? 'waits' : !r.used ? 'no' : r.counts ? 'yes' : 'not counted',
      rounded(r.beforeDeg, 4),
      rounded(r.afterDeg, 4),
      rounded(r.offDeg, 4),
      rounded(r.offPx, 2),
      rounded(r.lengthPx, 1),
      null,
      null,
      rounded(r.placedPx, 2),
      null,
    ]),
    ...edges.map((e) => ['edge', e.number, '', null, null, null, null, null, rounded(e.beforePx, 2), rounded(e.afterPx, 2), null, null]),
  ];
  return rows.map((row) => `${row.map(field).join(',')}\r\n`).join('');
}
