/** Bundles the command line where its sources are newer; the path of the bundle. */
export function bundleCli(): Promise<string>;
