/** The steps of the stretch map: from below one (shrunk) upwards; each has its own shade. */
export const STRETCH_STEPS: readonly { readonly below: number; readonly name: string }[] = [
  { below: 0.95, name: 'shrunk' },
  { below: 1.05, name: 'as taken' },
  { below: 1.25, name: 'to 1.25 ×' },
  { below: 1.5, name: 'to 1.5 ×' },
  { below: 2, name: 'to 2 ×' },
  { below: 3, name: 'to 3 ×' },
  { below: Infinity, name: 'more' },
];

/** Which step an enlargement belongs to. */
export const stretchStep = (value: number): number => STRETCH_STEPS.findIndex((step) => value < step.below);
