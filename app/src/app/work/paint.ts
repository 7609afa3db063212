import type { ColourSpace } from '@able-plumb/codecs';
import type { PreviewPixels } from './protocol';

/** What this screen can show: Display P3 where it is wide enough. */
export const screenSpace = (): ColourSpace => (globalThis.matchMedia?.('(color-gamut: p3)').matches ? 'display-p3' : 'srgb');

/** Puts a draft onto a canvas, in its colours. */
export function paint(canvas: HTMLCanvasElement, { data, width, height, space }: PreviewPixels): void {
  // setting a size clears, so that it is set only where it changes
  if (canvas.width !== width) canvas.width = width;
  if (canvas.height !== height) canvas.height = height;
  canvas.getContext('2d', { colorSpace: screenSpace() })?.putImageData(new ImageData(data, width, height, { colorSpace: space }), 0, 0);
}
