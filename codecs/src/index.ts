export { PictureFileError } from './bytes';
export type { CameraFacts } from './exif-block';
export { rgba8 } from './image-data';
export { encodeJpeg, providePlatformJpeg, type JpegOptions, type PlatformJpeg } from './jpeg';
export type { Metadata } from './metadata';
export { readPictureInfo, readPixels, type PictureInfo } from './read-picture';
export type { PictureFormat } from './sniff';
export { provideWasm, wasmPath } from './wasm-source';
export { EXPORT_FORMATS, SOFTWARE, toBits, writePicture, type FileNotes } from './write-picture';
