import * as z from 'zod';
import { PAPER_NAMES } from './paper-names';

const finite = z.number();
const point = z.tuple([finite, finite]);
const positive = z.number().positive();
const angle = z.number().min(-180).max(180);

const noneModel = z.object({ kind: z.literal('none') });
const brownConradyModel = z.object({
  kind: z.literal('brown-conrady'),
  fx: positive,
  fy: positive,
  cx: finite,
  cy: finite,
  k1: finite.default(0),
  k2: finite.default(0),
  p1: finite.default(0),
  p2: finite.default(0),
  k3: finite.default(0),
});
const divisionModel = z.object({ kind: z.literal('division'), cx: finite, cy: finite, l1: finite, l2: finite.default(0) });
const radialModel = z.object({ kind: z.literal('radial'), cx: finite, cy: finite, k1: finite, k2: finite.default(0) });
const fisheyeModel = z.object({
  kind: z.literal('fisheye'),
  fx: positive,
  fy: positive,
  cx: finite,
  cy: finite,
  k1: finite.default(0),
  k2: finite.default(0),
  k3: finite.default(0),
  k4: finite.default(0),
});
/** Lens model: what bends straight lines; parameters in px of the picture or in half diagonals, see each model's file. */
export const lensModelSchema = z.discriminatedUnion('kind', [noneModel, brownConradyModel, divisionModel, radialModel, fisheyeModel]);

/** Lateral colour: size of the red and of the blue image against the green one, about the lens's centre; 1 where they agree. */
export const lateralSchema = z.object({ red: z.number().min(0.95).max(1.05), blue: z.number().min(0.95).max(1.05) });

/** How well something was placed: standard deviation of a point of it across the line, picture px; 1 where nothing is said. */
const placedPx = z.number().min(0.01).max(1000).optional();

/** A reference line; ends in picture px; stated angle in degrees, positive anticlockwise as seen. */
export const referenceSchema = z.object({
  id: z.string().min(1),
  kind: z.enum(['plumb', 'level', 'return', 'eye']),
  a: point,
  b: point,
  statedAngle: angle.default(0),
  used: z.boolean().default(true),
  placedPx,
  /** By how much its edge departs from straight in the middle, picture px; positive to the right of the way from a to b. */
  bowPx: finite.optional(),
  /** Drawn so steeply that it may be anything: it does not count until somebody says what it is. */
  waits: z.boolean().optional(),
  /** Who pointed at it: a hand where nothing is said, or the picture's own edges. */
  by: z.enum(['hand', 'found']).optional(),
});

const lengthUnit = z.enum(['mm', 'cm', 'm', 'in', 'ft']);
const panelSizeSchema = z.union([
  z.object({ width: positive, height: positive, unit: lengthUnit.optional() }),
  z.object({ ratio: positive }),
  z.object({ paper: z.enum(PAPER_NAMES) }),
  z.null(),
]);

const segment = z.tuple([point, point]);

/**
 * A rectangle in reality, by its corners (picture px, any order) or by its edges (two points anywhere along each side, any order; where
 * both are given the edges count); margins in percent of that side or in the size's unit.
 */
export const panelSchema = z
  .object({
    id: z.string().min(1),
    corners: z.tuple([point, point, point, point]).optional(),
    edges: z.tuple([segment, segment, segment, segment]).optional(),
    size: panelSizeSchema.default(null),
    margins: z
      .object({ top: finite.default(0), right: finite.default(0), bottom: finite.default(0), left: finite.default(0) })
      .prefault({}),
    used: z.boolean().default(true),
    placedPx,
  })
  .refine((panel) => panel.corners !== undefined || panel.edges !== undefined, 'A panel needs its four corners or its four edges.');

/** A distance that is read off the plane of a panel whose size is typed; ends in picture px. */
export const measureSchema = z.object({ id: z.string().min(1), a: point, b: point, placedPx });

/** A straight line across the plane to judge by: x = at or y = at, plane px. */
export const guideSchema = z.object({ id: z.string().min(1), axis: z.enum(['x', 'y']), at: finite });

const stanceSchema = z.object({
  from: z.enum(['hand', 'references', 'panel']).default('hand'),
  may: z.enum(['turn-only', 'stand-plumb', 'square-on']).default('square-on'),
  front: z.enum(['wall', 'floor', 'ceiling', 'sheet']).default('wall'),
  roll: angle.default(0),
  tilt: z.number().min(-90).max(90).default(0),
  swing: angle.default(0),
  aspect: z.number().min(0.1).max(10).default(1),
  shear: z.number().min(-60).max(60).default(0),
  /** Which of the two `shear` slants. */
  slanted: z.enum(['plumb', 'level']).default('plumb'),
  adjust: z.object({ roll: angle.default(0), tilt: angle.default(0), swing: angle.default(0) }).prefault({}),
  pull: z.object({ scale: positive.default(1), shift: point.default([0, 0]) }).prefault({}),
  strength: z.object({ tilt: z.number().min(-2).max(3).default(1), swing: z.number().min(-2).max(3).default(1) }).prefault({}),
  /** Whether aim.roll follows the crop, so that the vertical in its middle stays plumb. */
  keepMiddle: z.boolean().default(false),
  /** What is kept in the middle: the vertical plumb, or, after a quarter turn, the horizontal level. */
  middle: z.enum(['plumb', 'level']).default('plumb'),
  aim: z.object({ roll: angle.default(0), tilt: angle.default(0), swing: angle.default(0) }).prefault({}),
  quarterTurns: z.union([z.literal(0), z.literal(1), z.literal(2), z.literal(3)]).default(0),
  flipX: z.boolean().default(false),
  flipY: z.boolean().default(false),
});

/** Crossings of a shim's net a side. */
export const FEWEST_CROSSINGS = 4;
export const MOST_CROSSINGS = 12;

/** Most that an edge easing narrows by. */
export const MOST_NARROWER = 0.8;

/**
 * Narrower beyond a boundary towards a side of the plane (as it is before flips): fully so at `reach` plane px beyond it, by `amount` of
 * its width. The boundary runs through a picture point. With `room` a stretch of that width before the boundary gives what the part up to
 * `frame` loses, so that the frame (a coordinate on the plane, px) stays.
 */
export const edgeEaseSchema = z.object({
  id: z.string().min(1),
  side: z.enum(['left', 'right', 'top', 'bottom']),
  at: point,
  amount: z.number().min(0).max(MOST_NARROWER),
  reach: positive,
  room: z.object({ width: positive, frame: finite }).nullable().default(null),
});

/**
 * An ellipse laid over a head, or over something round that lies on the front: its middle, and the ends of its half axes to the right and
 * upwards as it was drawn; picture px.
 */
export const ringSchema = z.object({ id: z.string().min(1), kind: z.enum(['head', 'round']), centre: point, right: point, top: point });

/**
 * One part of the plane that is moved while everything else stays: a box about a picture point, `width` x `height` plane px. `holds`: what
 * lies at `from` is shown at `to`, both from the middle of the box, plane px; a nail holds harder. `lines`: what becomes level, plumb or
 * straight inside the box, points along it in picture px. What is not used is kept, and moves nothing.
 */
export const shimSchema = z.object({
  id: z.string().min(1),
  at: point,
  width: positive,
  height: positive,
  /** Crossings of its net a side. */
  crossings: z.number().int().min(FEWEST_CROSSINGS).max(MOST_CROSSINGS).default(6),
  used: z.boolean().default(true),
  holds: z.array(z.object({ id: z.string().min(1), from: point, to: point, nail: z.boolean().default(false) })).default([]),
  lines: z
    .array(z.object({ id: z.string().min(1), kind: z.enum(['level', 'plumb', 'straight']), points: z.array(point).min(2) }))
    .default([]),
});

/** Local relief. `projection`: 0 keeps the plane as it is, 1 eases it in full. */
const easeSchema = z.object({
  projection: z.number().min(0).max(1).default(0),
  /** Along what the projection is eased: things at both sides, or, after a quarter turn, above and below. */
  along: z.enum(['level', 'plumb']).default('level'),
  edges: z.array(edgeEaseSchema).default([]),
  rings: z.array(ringSchema).default([]),
  /** They act one after the other, after all that is eased. */
  shims: z.array(shimSchema).default([]),
});

/** Rectangle by its top left corner; plane px in the crop. */
export const rectSchema = z.object({ x: finite, y: finite, width: positive, height: positive });

/**
 * Where filling may copy from, or may not: a box by two opposite corners, a polygon by three or more, or a brush stroke of a width; picture px.
 */
export const fillAreaSchema = z.object({
  id: z.string().min(1),
  kind: z.enum(['not', 'only']),
  points: z.array(point).min(2),
  /** Of the brush; a box or polygon where nothing is said. */
  widthPx: positive.optional(),
});

/** How empty edges are filled. */
const fillSchema = z.object({
  /** Parts that stay empty, each by a point in it, plane px. */
  leave: z.array(point).default([]),
  areas: z.array(fillAreaSchema).default([]),
  /** What goes straight on into the empty part beyond the end nearest to it; picture px. */
  lines: z.array(z.object({ id: z.string().min(1), a: point, b: point })).default([]),
  /** Which of many answers. */
  seed: z.number().int().min(1).max(1_000_000).default(1),
});

const cropSchema = z.object({
  edges: z.enum(['clear', 'keep', 'fill']).default('clear'),
  ratio: z.union([z.literal('as-taken'), z.literal('free'), positive]).default('as-taken'),
  /** `lines`: as `picture`, but what counted lines and used panels lie on is held where a clear crop can hold it. */
  around: z.enum(['picture', 'lines', 'frame', 'keep', 'panel']).default('picture'),
  rect: rectSchema.optional(),
  keep: z.array(z.object({ id: z.string().min(1), x: finite, y: finite, width: positive, height: positive })).default([]),
  fill: fillSchema.prefault({}),
});

const quad = z.tuple([point, point, point, point]);

/**
 * A print on a sheet: its corners and, where its border's inner edge is known, those of what it shows; top left, top right, bottom right,
 * bottom left as it lies, picture px; by how many quarters its picture is turned clockwise.
 */
export const pieceSchema = z.object({
  id: z.string().min(1),
  corners: quad,
  inner: quad.optional(),
  quarterTurns: z.union([z.literal(0), z.literal(1), z.literal(2), z.literal(3)]).default(0),
  /** How sure its outline is where it was found, in a word; a hand's where nothing is said. */
  how: z.enum(['seen', 'partly', 'touches']).optional(),
});

/** How pictures are made of a sheet's pieces. */
const howMade = {
  /** A photograph of a sheet has panels, a scan only turns. */
  taken: z.enum(['scanned', 'photographed']).default('scanned'),
  /** What of a print with a border becomes of it: all, or what lies inside. */
  border: z.enum(['with', 'inside']).default('with'),
  /** How far inside the edge a piece begins. */
  inset: z.object({ value: z.number().min(0).max(10000).default(0), unit: z.enum(['px', 'mm']).default('mm') }).prefault({}),
  /** Pixels an inch, where they are known. */
  ppi: positive.optional(),
};

/** A picture that has prints on it. */
export const sheetSchema = z.object({
  pieces: z.array(pieceSchema).max(500).default([]),
  /** The largest number that a piece's id ever had here: one that is gone may have a picture, which follows no other. */
  lastId: z.number().int().min(0).default(0),
  ...howMade,
  /** Names of the pieces, with {sheet} and {number}. */
  pattern: z.string().min(1).max(200).default('{sheet}-{number}'),
});

/** Size of an exported file. */
export const outputSizeSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('natural') }),
  z.object({ kind: z.literal('long-edge'), px: z.number().int().min(1).max(32767) }),
  z.object({ kind: z.literal('exact'), width: z.number().int().min(1).max(32767), height: z.number().int().min(1).max(32767) }),
  z.object({ kind: z.literal('print'), width: positive, height: positive, unit: z.enum(['mm', 'cm', 'in']), ppi: positive }),
  z.object({ kind: z.literal('no-enlargement') }),
  z.object({ kind: z.literal('scale'), oneTo: positive, ppi: positive }),
]);

/** Filter of the resampling. */
export const filterSchema = z.enum(['nearest', 'bilinear', 'bicubic', 'mitchell', 'lanczos3']);

/** What resampling averages: samples as they are stored, or the light that they stand for. */
export const lightSchema = z.enum(['encoded', 'linear']);

/** The colours of a file: as the original has them, or converted. */
export const colourSchema = z.enum(['as-is', 'srgb', 'display-p3']);

/** For what a file is sharpened after it was resampled. */
export const sharpenSchema = z.enum(['none', 'screen', 'print']);

/** What empty edges show: nothing, or a colour. */
export const backgroundSchema = z.union([z.literal('transparent'), z.string().regex(/^#[0-9a-fA-F]{6}$/)]);

/** The correction document, version 1. Angles in degrees, positions in picture px unless said otherwise. */
export const correctionSchema = z.object({
  format: z.literal('able-plumb/correction'),
  version: z.literal(1),
  picture: z.object({
    name: z.string().default(''),
    width: z.number().int().min(1).max(32767),
    height: z.number().int().min(1).max(32767),
    sha256: z
      .string()
      .regex(/^[0-9a-f]{64}$/)
      .optional(),
  }),
  camera: z
    .object({
      focalPx: positive.optional(),
      focalFrom: z.enum(['metadata', 'profile', 'references', 'typed', 'assumed']).default('assumed'),
      /** How sure that focal length is where something said so: standard deviation of its logarithm. */
      focalSd: z.number().min(0).max(2).optional(),
      centre: point.optional(),
      centreFrom: z.enum(['middle', 'profile', 'references', 'typed']).default('middle'),
      flat: z.boolean().default(false),
      /** How the camera's own level says that it stood, degrees, as far as the metadata tell; good to a degree or two. */
      level: z.object({ roll: angle.optional(), tilt: z.number().min(-90).max(90).optional() }).optional(),
    })
    .prefault({}),
  lens: z
    .object({
      on: z.boolean().default(true),
      profile: z.string().nullable().default(null),
      model: lensModelSchema.default({ kind: 'none' }),
      /** Who set the model: nobody yet, a hand, a profile, or the traced edges, which then solve it anew whenever they change. */
      from: z.enum(['nobody', 'hand', 'profile', 'edges']).default('nobody'),
      lateral: lateralSchema.default({ red: 1, blue: 1 }),
      /** Traced edges by their beads, picture px; `bowSd`: standard deviation of the bow, px, of one that was followed by itself. */
      edges: z
        .array(z.object({ id: z.string().min(1), points: z.array(point).min(2), bowSd: z.number().min(0).max(1000).optional() }))
        .default([]),
    })
    .prefault({}),
  references: z.array(referenceSchema).default([]),
  panels: z.array(panelSchema).default([]),
  measures: z.array(measureSchema).default([]),
  stance: stanceSchema.prefault({}),
  ease: easeSchema.prefault({}),
  crop: cropSchema.prefault({}),
  guides: z.array(guideSchema).default([]),
  output: z
    .object({
      size: outputSizeSchema.default({ kind: 'natural' }),
      filter: filterSchema.default('lanczos3'),
      light: lightSchema.default('encoded'),
      background: backgroundSchema.default('transparent'),
      colour: colourSchema.default('as-is'),
      sharpen: sharpenSchema.default('none'),
    })
    .prefault({}),
  /** Deliveries chosen for this picture, by their id; a crop set by hand for one, plane px. */
  deliveries: z.array(z.object({ id: z.string().min(1), rect: rectSchema.optional() })).default([]),
  /** The prints that lie on this picture, where it is a sheet. */
  sheet: sheetSchema.optional(),
  /** The print on a sheet that this is the picture of, and how it was made of it. */
  piece: pieceSchema.omit({ how: true }).extend(howMade).optional(),
});

/** The correction document with every default filled in. */
export type Correction = z.output<typeof correctionSchema>;
/** The correction document as it may be written by hand: most fields optional. */
export type CorrectionInput = z.input<typeof correctionSchema>;
export type LensModel = z.output<typeof lensModelSchema>;
export type Lateral = z.output<typeof lateralSchema>;
export type TracedEdge = Correction['lens']['edges'][number];
export type Reference = z.output<typeof referenceSchema>;
export type Panel = z.output<typeof panelSchema>;
export type PanelSize = Panel['size'];
export type LengthUnit = z.output<typeof lengthUnit>;
export type Measure = z.output<typeof measureSchema>;
export type Guide = z.output<typeof guideSchema>;
export type Piece = z.output<typeof pieceSchema>;
export type Sheet = z.output<typeof sheetSchema>;
export type ReferenceKind = Reference['kind'];
export type Ease = Correction['ease'];
export type EdgeEase = z.output<typeof edgeEaseSchema>;
export type Shim = z.output<typeof shimSchema>;
export type ShimHold = Shim['holds'][number];
export type ShimLine = Shim['lines'][number];
export type ShapeRing = z.output<typeof ringSchema>;
export type Stance = Correction['stance'];
export type Fill = Correction['crop']['fill'];
export type FillArea = z.output<typeof fillAreaSchema>;
export type Crop = Correction['crop'];
export type OutputSize = Correction['output']['size'];
export type FilterName = Correction['output']['filter'];
