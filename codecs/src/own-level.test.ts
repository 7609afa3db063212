import { describe, expect, it } from 'vitest';
import { readCameraFacts } from './exif-block';
import { poseOf } from './xmp-packet';

/** An EXIF block with one signed rational in the camera's own directory (CIPA DC-008, tag 0x9405 CameraElevationAngle). */
function elevated(numerator: number, denominator: number): Uint8Array {
  const view = new DataView(new ArrayBuffer(52));
  view.setUint16(0, 0x4949);
  view.setUint16(2, 42, true);
  view.setUint32(4, 8, true);
  // the first directory: where the camera's own lies
  view.setUint16(8, 1, true);
  view.setUint16(10, 0x8769, true);
  view.setUint16(12, 4, true);
  view.setUint32(14, 1, true);
  view.setUint32(18, 26, true);
  view.setUint16(26, 1, true);
  view.setUint16(28, 0x9405, true);
  view.setUint16(30, 10, true);
  view.setUint32(32, 1, true);
  view.setUint32(36, 44, true);
  view.setInt32(44, numerator, true);
  view.setInt32(48, denominator, true);
  return new Uint8Array(view.buffer);
}

describe("the camera's own level", () => {
  it('is read from EXIF, up and down, and not believed beyond a quarter', () => {
    expect(readCameraFacts(elevated(125, 10), 100, 80).elevation).toBe(12.5);
    expect(readCameraFacts(elevated(-3, 2), 100, 80).elevation).toBe(-1.5);
    expect(readCameraFacts(elevated(400, 1), 100, 80).elevation).toBeNull();
    expect(readCameraFacts(elevated(1, 0), 100, 80).elevation).toBeNull();
  });

  it('is read from the open panorama tags, as attributes and as elements', () => {
    const packet = (inside: string): Uint8Array => new TextEncoder().encode(`<x:xmpmeta><rdf:RDF>${inside}</rdf:RDF></x:xmpmeta>`);
    expect(poseOf(packet('<rdf:Description GPano:PosePitchDegrees="4.25" GPano:PoseRollDegrees="-1.5"/>'))).toEqual({
      roll: -1.5,
      tilt: 4.25,
    });
    expect(poseOf(packet('<GPano:PoseRollDegrees>2</GPano:PoseRollDegrees>'))).toEqual({ roll: 2, tilt: null });
    expect(poseOf(packet('<rdf:Description/>'))).toEqual({ roll: null, tilt: null });
  });
});
