/* What is used of the colour engine (Little CMS, compiled), whose package has no types. */

/** The engine itself, as it was compiled. */
export interface Lcms {
  readonly HEAPU8: Uint8Array;
  _malloc(bytes: number): number;
  _free(at: number): void;
  ccall(name: string, returns: 'number' | undefined, types: readonly 'number'[], values: readonly number[]): number;
  cmsCloseProfile(profile: number): void;
  cmsGetColorSpaceASCII(profile: number): string | null;
  cmsCreateTransform(from: number, fromFormat: number, to: number, toFormat: number, intent: number, flags: number): number;
  cmsDeleteTransform(transform: number): void;
}
interface Options {
  instantiateWasm(imports: WebAssembly.Imports, received: (instance: WebAssembly.Instance) => void): object;
  print?(text: string): void;
  printErr?(text: string): void;
}
/** The package. */
export interface LcmsPackage {
  readonly TYPE_RGB_16: number;
  readonly TYPE_GRAY_16: number;
  readonly INTENT_RELATIVE_COLORIMETRIC: number;
  readonly cmsFLAGS_BLACKPOINTCOMPENSATION: number;
  readonly cmsFLAGS_NOCACHE: number;
  instantiate(options: Options): Promise<Lcms>;
}
