/** Numbers from a seed: uniform in [0, 1), and normal of deviation 1 (Box, Muller). */
export interface Dice {
  uniform(): number;
  normal(): number;
}

/** Source of the generator: Marsaglia 2003, Xorshift RNGs, from memory. */
export function dice(seed: number): Dice {
  let state = (seed * 2654435761) >>> 0 || 1;
  const uniform = (): number => {
    state ^= state << 13;
    state >>>= 0;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return state / 2 ** 32;
  };
  for (let i = 0; i < 20; i += 1) uniform();
  return { uniform, normal: () => Math.sqrt(-2 * Math.log(1 - uniform())) * Math.cos(2 * Math.PI * uniform()) };
}
