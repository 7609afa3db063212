import type { Correction } from '../correction/schema';
import { PlumbError } from '../picture/failure';
import { scaledModel } from '../profile/scaled-model';
import { mapQuad } from '../picture/quad';

/** Pictures whose proportions differ by more than this are not the same frame. */
const SAME_ASPECT = 0.002;

/** A correction from a file as it is for another picture, and by how much its positions were scaled; 1 for the same size. */
export interface AppliedCorrection {
  readonly correction: Correction;
  readonly factor: number;
}

/**
 * A correction made for one picture, for another of the same proportions: everything that is measured in px is scaled. It stays as it was
 * solved; the picture keeps its own name and hash.
 *
 * @throws PlumbError for a picture of other proportions, where no position would mean the same thing
 */
export function appliedTo(loaded: Correction, picture: Correction['picture']): AppliedCorrection {
  const from = loaded.picture;
  const [fx, fy] = [picture.width / from.width, picture.height / from.height];
  if (Math.abs(Math.log(fx / fy)) > SAME_ASPECT)
    throw new PlumbError(
      'size-differs',
      `This correction was made for ${from.width} x ${from.height} px; this picture has other proportions (${picture.width} x ${picture.height}), so no point of it would mean the same thing.`,
      'Nothing was changed.',
    );
  const f = fx;
  const point = ([x, y]: readonly [number, number]): [number, number] => [x * fx, y * fy];
  const rect = <R extends { x: number; y: number; width: number; height: number }>(r: R): R => ({
    ...r,
    x: r.x * f,
    y: r.y * f,
    width: r.width * f,
    height: r.height * f,
  });
  const { camera, lens, crop, stance, output } = loaded;
  const fill: Correction['crop']['fill'] = {
    ...crop.fill,
    leave: crop.fill.leave.map(point),
    areas: crop.fill.areas.map((a) => ({
      ...a,
      points: a.points.map(point),
      ...(a.widthPx === undefined ? {} : { widthPx: a.widthPx * f }),
    })),
    lines: crop.fill.lines.map((l) => ({ ...l, a: point(l.a), b: point(l.b) })),
  };
  const correction: Correction = {
    ...loaded,
    picture,
    camera: {
      ...camera,
      ...(camera.focalPx === undefined ? {} : { focalPx: camera.focalPx * f }),
      ...(camera.centre ? { centre: point(camera.centre) } : {}),
    },
    lens: {
      ...lens,
      model: scaledModel(lens.model, f),
      edges: lens.edges.map((e) => ({ ...e, points: e.points.map(point), ...(e.bowSd === undefined ? {} : { bowSd: e.bowSd * f }) })),
    },
    references: loaded.references.map((r) => ({
      ...r,
      a: point(r.a),
      b: point(r.b),
      ...placed(r, f),
      ...(r.bowPx === undefined ? {} : { bowPx: r.bowPx * f }),
    })),
    panels: loaded.panels.map((p) => ({
      ...p,
      ...placed(p, f),
      ...(p.corners ? { corners: mapQuad(p.corners, point) } : {}),
      ...(p.edges ? { edges: mapQuad(p.edges, ([a, b]): [[number, number], [number, number]] => [point(a), point(b)]) } : {}),
    })),
    measures: loaded.measures.map((m) => ({ ...m, a: point(m.a), b: point(m.b), ...placed(m, f) })),
    stance: { ...stance, pull: { ...stance.pull, shift: point(stance.pull.shift) } },
    ease: {
      ...loaded.ease,
      edges: loaded.ease.edges.map((e) => ({
        ...e,
        at: point(e.at),
        reach: e.reach * f,
        room: e.room && { width: e.room.width * f, frame: e.room.frame * f },
      })),
      shims: loaded.ease.shims.map((s) => ({
        ...s,
        at: point(s.at),
        width: s.width * f,
        height: s.height * f,
        holds: s.holds.map((h) => ({ ...h, from: point(h.from), to: point(h.to) })),
        lines: s.lines.map((l) => ({ ...l, points: l.points.map(point) })),
      })),
      rings: loaded.ease.rings.map((r) => ({ ...r, centre: point(r.centre), right: point(r.right), top: point(r.top) })),
    },
    crop: { ...crop, ...(crop.rect ? { rect: rect(crop.rect) } : {}), keep: crop.keep.map(rect), fill },
    guides: loaded.guides.map((g) => ({ ...g, at: g.at * f })),
    deliveries: loaded.deliveries.map((d) => ({ ...d, ...(d.rect ? { rect: rect(d.rect) } : {}) })),
    output,
  };
  return { correction, factor: f };
}

/** How well something was placed, in a picture of another size. */
const placed = ({ placedPx }: { readonly placedPx?: number | undefined }, f: number): { placedPx?: number } =>
  placedPx === undefined ? {} : { placedPx: Math.min(1000, Math.max(0.01, placedPx * f)) };
