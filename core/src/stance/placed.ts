/** Deviation of a point that was placed, where nothing says how well, px. */
export const PLACED_PX = 1;

/** An edge that bows is no straight thing: of its bow this share is off at either end by itself, lens or no lens (a matter of judgement). */
const BOW_SHARE = 0.25;

/** Standard deviation of a line's end across it, px: how well it was placed, and what an edge with a bow says less. */
export const deviationPx = (placedPx: number | undefined, bowPx = 0): number => Math.hypot(placedPx ?? PLACED_PX, BOW_SHARE * bowPx);
