/** Positions count in 1 / 2^18 px. */
export const POSITION_BITS: i32 = 18;
export const POSITION_ONE: f64 = <f64>(1 << POSITION_BITS);
