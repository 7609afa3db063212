/** What is said where a line was drawn for a shim and none is worked on any more. */
export const NO_SHIM = 'Click the shim first that the line is for; nothing was changed.';
