/**
 * A broken contract or an impossible request, in words for the user: what happened, what is safe, what to do.
 * `code` is stable for programs; `remedy` is a sentence of its own.
 */
export class PlumbError extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly remedy: string = '',
  ) {
    super(remedy === '' ? message : `${message} ${remedy}`);
    this.name = 'PlumbError';
  }
}
