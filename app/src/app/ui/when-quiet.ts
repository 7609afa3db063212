/** After this long it is done all the same, ms. */
const LONGEST_MS = 3000;
/** Where the browser does not say when it is idle, ms. */
const A_WHILE_MS = 300;

/** Does something when the page has nothing else to do: what is most likely wanted next is then there. */
export function whenQuiet(work: () => void): void {
  if (typeof requestIdleCallback === 'function') requestIdleCallback(work, { timeout: LONGEST_MS });
  else setTimeout(work, A_WHILE_MS);
}
