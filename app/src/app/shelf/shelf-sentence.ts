/** What to tell the user when the shelf refuses to take something. */
export function shelfSentence(error: unknown): string {
  const name = error instanceof Error || error instanceof DOMException ? error.name : '';
  if (name === 'QuotaExceededError')
    return 'The browser has no room left: the last change is not kept. Everything before it is safe. Remove a job you no longer need, or free disk space; it is tried again by itself.';
  return `The browser could not keep the last change (${error instanceof Error ? error.message : String(error)}). What was kept before is safe. It is tried again by itself; if this stays, save what you need as files and load the page again.`;
}
