/** Path of the Chromium that the interface tests run in; null when there is none. */
export function testBrowser(): string | null;
