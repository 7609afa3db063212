export { PictureFileError } from './bytes';
export type { CameraFacts } from './exif-block';
export { encodeJpeg, providePlatformJpeg, type JpegOptions, type PlatformJpeg } from './jpeg';
export type { Metadata } from './metadata';
export { readPictureInfo, readPixels, type PictureInfo } from './read-picture';
export type { PictureFormat } from './sniff';
export { provideWasm, type WasmName } from './wasm-source';
export { EXPORT_FORMATS, SOFTWARE, toBits, writePicture, type ExportFormat } from './write-picture';
