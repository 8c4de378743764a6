import { elementAt } from '../document/elementAt.ts';
import { foldHistory, type Slot } from './fold.ts';
import type { Standing } from '../document/version.ts';
import type { StrandCustody, StrandInput, StrandVersion } from './input.ts';
import { rulerTicks, type Tick } from './ruler.ts';

export type PointShape =
  'solid' | 'smallSolid' | 'open' | 'bentBack' | 'resting' | 'hollowCentred' | 'struck' | 'notch';
export interface Point {
  id: string;
  label: string;
  x: number;
  y: number;
  radius: number;
  line: 'upper' | 'lower';
  shape: PointShape;
  labelShown: boolean;
  sheltered: boolean;
  /** The share of its days on the recovery shelf that is left, 0 to 1; null for what is kept or gone. */
  shelf: number | null;
  /** Its moment of coming into force, while that is ahead. */
  due: Date | null;
}
/** Older drafts between two publications, or a stretch of thinned versions, in one mark. */
export interface FoldMark {
  id: string;
  kind: 'lens' | 'run';
  x: number;
  y: number;
  width: number;
  height: number;
  count: number;
  bytes: number;
  /** How much the text changed in it, against the fold that changed most: 0 to 1. */
  darkness: number;
  first: string;
  last: string;
}
/** One approver's post on the rise of a version in approval. */
export interface PostMark {
  x: number;
  y1: number;
  y2: number;
  decided: boolean;
}
export interface ApprovalMark {
  path: string;
  posts: PostMark[];
  ageX: number;
  ageY: number;
  days: number;
}
/** Where a version governs or governed, along the upper line. */
export interface InkBar {
  id: string;
  x1: number;
  x2: number;
  governs: boolean;
  ahead?: boolean;
}
/** A curve, as the `d` of an SVG path. */
export interface Curve {
  from: string;
  to: string;
  path: string;
}
export interface Arc extends Curve {
  label: string;
  labelX: number;
  labelY: number;
}
export interface Thread {
  path: string;
  beads: { x: number; y: number }[];
  ring: { x: number; y: number; radius: number; left: number };
  due: { x: number; y: number; overdue: boolean } | null;
}
export interface Ghost {
  level: 'minor' | 'major';
  label: string;
  x: number;
  y: number;
  radius: number;
}

/** All positions in CSS pixels from the drawing's upper left corner. */
export interface StrandDrawing {
  width: number;
  height: number;
  upperY: number;
  lowerY: number;
  lineStart: number;
  nowX: number;
  points: Point[];
  folds: FoldMark[];
  approval: ApprovalMark | null;
  bars: InkBar[];
  rises: Curve[];
  arcs: Arc[];
  thread: Thread | null;
  /** Threads that were cut, hanging from the base of a copy set aside. */
  cut: { path: string; end: Spot }[];
  ghosts: Ghost[];
  /** Versions before the first one drawn, shown as hatching. */
  earlier: number;
  ruler: {
    y: number;
    ticks: Tick[];
    hairlines: { id: string; x1: number; y1: number; x2: number; y2: number }[];
  } | null;
}

interface Measures {
  height: number;
  upperY: number;
  lowerY: number;
  rulerY: number | null;
  ringY: number;
  left: number;
  hatch: number;
  minimumPitch: number;
  maximumPitch: number;
  /** Room right of now: plain, with a thread's due mark, and beyond the numbers to come. */
  right: number;
  rightOfThread: number;
  rightOfGhosts: number;
  /** Half the height of an approver's post, in radii, and the length of a cut thread. */
  postHalf: number;
  cut: number;
  radius: number;
  ring: number;
  ghostMinor: number;
  ghostMajor: number;
  label: number;
  publications: number;
  /**
   * Versions at the end that are never folded, and the narrowest step of older ones where there is no room:
   * no target is under 8 px.
   */
  tail: number;
  densePitch: number;
  run: number;
  lens: number;
  approval: number;
  ahead: number;
}
const large: Measures = {
  height: 256,
  upperY: 58,
  lowerY: 136,
  rulerY: 226,
  ringY: 174,
  left: 28,
  hatch: 34,
  minimumPitch: 34,
  maximumPitch: 104,
  right: 36,
  rightOfThread: 110,
  rightOfGhosts: 40,
  postHalf: 1.7,
  cut: 34,
  radius: 6,
  ring: 14,
  ghostMinor: 58,
  ghostMajor: 106,
  label: 36,
  publications: Infinity,
  tail: 12,
  densePitch: 11,
  run: 84,
  lens: 30,
  approval: 70,
  ahead: 62,
};
const measures: Record<StrandInput['size'], Measures> = {
  large,
  slim: { ...large, height: 58, upperY: 30, lowerY: 30, ringY: 30, rulerY: null },
  small: {
    height: 46,
    upperY: 13,
    lowerY: 32,
    rulerY: null,
    ringY: 32,
    left: 36,
    hatch: 16,
    minimumPitch: 13,
    maximumPitch: 26,
    right: 14,
    rightOfThread: 14,
    rightOfGhosts: 34,
    postHalf: 1.1,
    cut: 8,
    radius: 4,
    ring: 5,
    ghostMinor: 24,
    ghostMajor: 24,
    label: 0,
    publications: 6,
    tail: 5,
    densePitch: 13,
    run: 26,
    lens: 18,
    approval: 22,
    ahead: 16,
  },
};

/** What a point is measured by, and the moment it is drawn for. */
interface Frame {
  size: Measures;
  now: Date;
}

/** How much larger or smaller than others a point of a shape is; a number to come is drawn as a wide ring. */
const radiusFactors: Partial<Record<PointShape, number>> = { solid: 1.3, smallSolid: 0.85 };
const ghostFactor = 1.6;
/** How far below the upper line an approved version rests, in radii. */
const restingBelow = 2.4;
/**
 * Steps of the axis from the last point to now; the rise of a version in approval takes some of its room from
 * them.
 */
const pitchesToNow = { plain: 1.2, withThread: 2.4, sharedByRise: 0.6 };
/** The first version ahead of now stands this share of a step behind it. */
const firstAhead = 0.8;
/** Heights of a lens in radii: of one draft, and at most; doubling its drafts adds one. */
const lens = { base: 1.6, highest: 6.4 };
/** Posts stand along the middle half of the rise, or abreast so many radii apart. */
const rise = { from: 0.25, along: 0.5, abreast: 1.1 };
/**
 * A restore arc: its lean and sag as shares of its width, its distances from points, label, ruler and edge in
 * pixels.
 */
const arc = { lean: 0.12, sag: 1 / 14, clear: 8, label: 14, fromRuler: 26, fromEdge: 4 };
/**
 * A thread leaves its base and arrives at its holder by these shares of the way, its beads between; the due
 * mark in pixels from now.
 */
const thread = { leaves: 0.2, arrives: 0.6, from: 0.3, along: 0.6, due: 66, overdue: -44 };

/**
 * Lays out a Strand (docs/interface.md): published versions on the upper line, drafts on the lower, one step
 * of the axis a version; a calendar ruler below, joined to each point by a hairline; restore arcs, the
 * custody thread, the numbers to come.
 */
export function layOutStrand(input: StrandInput): StrandDrawing {
  const size = measures[input.size];
  const frame = { size, now: input.now };
  const past = input.versions.filter((version) => !isAhead(version));
  const ahead = input.versions.filter(isAhead);
  const right = rightMargin(input, size) + ahead.length * size.ahead;
  const gap = gapBeforeNow(input, size);
  const slots = slotsShown(input, past, size, input.width - size.left - right - gap);
  const shown = slots.flatMap((slot) => (slot.kind === 'point' ? [slot.version] : slot.versions));
  const earlier = past.length - shown.length;
  const left = size.left + (earlier > 0 ? size.hatch : 0);
  const steps = stepsOf(slots, size, input.width - left - right - gap);
  const lastX = left + steps.reduce((sum, step) => sum + step, 0);
  const nowX = Math.max(input.width - right, lastX + gap);
  const { points, folds } = layOutSlots(slots, left, steps, frame);
  points.push(
    ...ahead.map((version, index) => ({
      ...pointOf(version, nowX + (index + firstAhead) * size.ahead, frame),
      labelShown: size.label > 0,
    })),
  );
  const byId = new Map(points.map((point) => [point.id, point]));
  for (const slot of slots) {
    const mark = slot.kind === 'point' ? undefined : folds.find(({ id }) => id === slot.id);
    // What leads to a folded version leads to its fold.
    if (mark && slot.kind !== 'point')
      for (const version of slot.versions)
        byId.set(version.id, {
          ...pointOf(version, mark.x + mark.width / 2, frame),
          radius: size.radius,
        });
  }
  const drawn = [...shown, ...ahead];
  const ghosts = layOutGhosts(input, nowX + ahead.length * size.ahead, size);
  return {
    width: nowX + right,
    height: size.height,
    upperY: size.upperY,
    lowerY: size.lowerY,
    lineStart: size.left - 6,
    nowX,
    points,
    folds,
    earlier,
    ghosts,
    bars: layOutBars(drawn, byId, nowX),
    rises: layOutRises(drawn, byId),
    arcs: layOutArcs(drawn, byId, size),
    approval: layOutApproval(input, byId, size),
    thread: layOutThread(input, byId, nowX, size),
    cut: layOutCut(input, byId, size),
    ruler: size.rulerY === null ? null : layOutRuler(shown, points, { left, nowX, y: size.rulerY }, frame),
  };
}

const isAhead = (version: StrandVersion): boolean => version.standing === 'scheduled';

/**
 * What is drawn of the past, folded where there is no room for all. Small Strands show the last six
 * publications and what came after the seventh, as far as there is room.
 */
function slotsShown(
  input: StrandInput,
  past: readonly StrandVersion[],
  size: Measures,
  room: number,
): Slot[] {
  const published = past.flatMap((version, index) => (isUpper(version) ? [index] : []));
  const seventh = published.at(-size.publications - 1);
  const from = input.size === 'small' && seventh !== undefined ? past.slice(seventh + 1) : past;
  const slots = foldHistory(from, {
    tail: size.tail,
    dense: (from.length - 1) * size.minimumPitch > room,
    opened: input.opened ?? new Set(),
    kept: new Set([...(input.custody?.baseId ? [input.custody.baseId] : []), ...(input.setAside ?? [])]),
  });
  if (input.size !== 'small') return slots;
  let fits = 1;
  let used = 0;
  while (fits < slots.length) {
    used += size.minimumPitch + extent(elementAt(slots, slots.length - fits - 1), size);
    if (used > room - size.hatch) break;
    fits += 1;
  }
  return slots.slice(Math.max(0, slots.length - fits));
}

/** Room a slot takes beyond that of a point. */
const extent = ({ kind }: Slot, size: Measures): number =>
  kind === 'point' ? 0 : { run: size.run, lens: size.lens }[kind];

/**
 * The way from each slot to the next: even where there is room; else the last dozen at full pitch and the
 * older ones closer.
 */
function stepsOf(slots: readonly Slot[], size: Measures, room: number): number[] {
  const count = Math.max(0, slots.length - 1);
  const folds = slots.slice(0, count).reduce((sum, slot) => sum + extent(slot, size), 0);
  const even = (room - folds) / Math.max(1, count);
  const wide = (slot: Slot): number => extent(slot, size);
  if (even >= size.minimumPitch || size.publications !== Infinity) {
    const pitch = Math.min(size.maximumPitch, Math.max(size.minimumPitch, even));
    return slots.slice(0, count).map((slot) => pitch + wide(slot));
  }
  const tail = Math.min(count, size.tail);
  const older = Math.min(
    size.minimumPitch,
    Math.max(size.densePitch, (room - folds - tail * size.minimumPitch) / Math.max(1, count - tail)),
  );
  return slots
    .slice(0, count)
    .map((slot, index) => (index >= count - tail ? size.minimumPitch : older) + wide(slot));
}

/** Room between the last point and now; a thread needs more of it. */
function gapBeforeNow(input: StrandInput, size: Measures): number {
  const pitches = input.custody?.baseId ? pitchesToNow.withThread : pitchesToNow.plain;
  const rise = input.approval ? size.approval - size.minimumPitch * pitchesToNow.sharedByRise : 0;
  return size.minimumPitch * pitches + rise;
}

function rightMargin(input: StrandInput, size: Measures): number {
  if (input.toCome) return size.ghostMajor + size.rightOfGhosts;
  return input.custody?.baseId ? size.rightOfThread : size.right;
}

const isUpper = (version: StrandVersion): boolean =>
  version.state === 'published' || version.state === 'withdrawn';

const publishedShapes: Readonly<Record<Standing, PointShape>> = {
  inForce: 'solid',
  scheduled: 'hollowCentred',
  superseded: 'smallSolid',
};

function shapeOf(version: StrandVersion): PointShape {
  if (version.thinned) return 'notch';
  switch (version.state) {
    case 'published':
      return publishedShapes[version.standing ?? 'superseded'];
    case 'withdrawn':
      return 'struck';
    case 'rejected':
      return 'bentBack';
    case 'approved':
      return 'resting';
    default:
      return 'open';
  }
}

/** A version as a point, its label not shown yet. */
function pointOf(version: StrandVersion, x: number, { size, now }: Frame): Point {
  const line = isUpper(version) ? 'upper' : 'lower';
  const shape = shapeOf(version);
  const { thinned } = version;
  const whole = thinned ? thinned.until.getTime() - thinned.at.getTime() : 0;
  const left = thinned ? thinned.until.getTime() - now.getTime() : 0;
  return {
    id: version.id,
    label: version.label,
    line,
    shape,
    labelShown: false,
    x,
    y: heightOf(shape, line, size),
    radius: size.radius * (radiusFactors[shape] ?? 1),
    sheltered: Boolean(version.sheltered),
    shelf: thinned && left > 0 && whole > 0 ? Math.min(1, left / whole) : null,
    due: isAhead(version) ? (version.inForceFrom ?? null) : null,
  };
}

/** An approved version rests under the upper line, until it is published. */
function heightOf(shape: PointShape, line: Point['line'], size: Measures): number {
  if (shape === 'resting') return size.upperY + size.radius * restingBelow;
  return line === 'upper' ? size.upperY : size.lowerY;
}

function layOutSlots(
  slots: readonly Slot[],
  left: number,
  steps: readonly number[],
  frame: Frame,
): { points: Point[]; folds: FoldMark[] } {
  const { size } = frame;
  const points: Point[] = [];
  const folds: FoldMark[] = [];
  const most = Math.max(1, ...slots.map((slot) => (slot.kind === 'lens' ? wordsChanged(slot.versions) : 0)));
  let x = left;
  for (const [index, slot] of slots.entries()) {
    if (slot.kind === 'point') points.push(pointOf(slot.version, x, frame));
    else {
      const upper = slot.versions.filter(isUpper).length > slot.versions.length / 2;
      folds.push({
        id: slot.id,
        kind: slot.kind,
        count: slot.versions.length,
        x,
        width: extent(slot, size),
        y: upper ? size.upperY : size.lowerY,
        height:
          slot.kind === 'lens'
            ? size.radius * Math.min(lens.highest, lens.base + Math.log2(slot.versions.length))
            : size.radius * 2,
        bytes: slot.versions.reduce((sum, version) => sum + (version.size ?? 0), 0),
        darkness: slot.kind === 'lens' ? wordsChanged(slot.versions) / most : 0,
        first: slot.versions[0]?.label ?? '',
        last: slot.versions.at(-1)?.label ?? '',
      });
    }
    x += steps[index] ?? 0;
  }
  // From the right, so that the newest keep their labels where there is no room for all.
  const nextLabel = { upper: Infinity, lower: Infinity };
  for (const point of [...points].reverse()) {
    point.labelShown = size.label > 0 && nextLabel[point.line] - point.x >= size.label;
    if (point.labelShown) nextLabel[point.line] = point.x;
  }
  return { points, folds };
}

/** Words that came or went from each version to the next, as far as their counts tell. */
function wordsChanged(versions: readonly StrandVersion[]): number {
  return versions.reduce((sum, version, index) => {
    const before = versions[index - 1]?.words;
    return before === undefined || before === null || version.words === undefined || version.words === null
      ? sum
      : sum + Math.abs(version.words - before);
  }, 0);
}

/**
 * The rise of a version in approval, past one post an approver: in line where they decide in turn, abreast
 * where together.
 */
function layOutApproval(input: StrandInput, byId: Map<string, Point>, size: Measures): ApprovalMark | null {
  const { approval } = input;
  const from = approval ? byId.get(approval.versionId) : undefined;
  if (!approval || !from) return null;
  const width = size.approval;
  const [a, b] = [
    { x: from.x + from.radius, y: from.y },
    { x: from.x + width, y: size.upperY },
  ];
  const handles = [
    { x: a.x + width * 0.5, y: a.y },
    { x: b.x - width * 0.5, y: b.y },
  ] as const;
  const count = approval.decided.length;
  const half = size.radius * size.postHalf;
  const posts = approval.decided.map((decided, index): PostMark => {
    const inLine = approval.mode === 'serial';
    const share = rise.from + (rise.along * (index + 0.5)) / count;
    const spot = bezier([a, ...handles, b], inLine ? share : 0.5);
    const x = inLine ? spot.x : spot.x + (index - (count - 1) / 2) * size.radius * rise.abreast;
    return { x: round(x), y1: round(spot.y - half), y2: round(spot.y + half), decided };
  });
  return {
    posts,
    ageX: from.x + width * 0.5,
    ageY: size.lowerY + size.radius * 3,
    days: Math.floor((input.now.getTime() - approval.submittedAt.getTime()) / 86_400_000),
    path: path`M ${a.x} ${a.y} C ${handles[0].x} ${handles[0].y} ${handles[1].x} ${handles[1].y} ${b.x} ${b.y}`,
  };
}

function layOutBars(shown: readonly StrandVersion[], byId: Map<string, Point>, nowX: number): InkBar[] {
  const governing = shown.filter((version) => version.state === 'published' && !isAhead(version));
  const bars = governing
    .map((version, index): InkBar => {
      const next = governing[index + 1];
      const governs = version.standing === 'inForce';
      return {
        id: version.id,
        governs,
        x1: x(byId, version.id),
        x2: governs || !next ? nowX : x(byId, next.id),
      };
    })
    .filter((bar) => bar.x2 > bar.x1);
  // Dashed up to what is scheduled: until then the one before holds.
  return [
    ...bars,
    ...shown
      .filter(isAhead)
      .slice(0, 1)
      .map((version) => ({ id: version.id, governs: true, ahead: true, x1: nowX, x2: x(byId, version.id) })),
  ];
}
const x = (byId: Map<string, Point>, id: string): number => byId.get(id)?.x ?? 0;

/** A published version rises from the draft it was made of. */
function layOutRises(shown: readonly StrandVersion[], byId: Map<string, Point>): Curve[] {
  return shown.flatMap((version): Curve[] => {
    const to = byId.get(version.id);
    const from = version.origin.from === null ? undefined : byId.get(version.origin.from);
    if (
      !to ||
      !from ||
      version.origin.kind === 'restore' ||
      from.line !== 'lower' ||
      to.line !== 'upper' ||
      to.x <= from.x
    )
      return [];
    const half = (to.x - from.x) / 2;
    return [
      {
        from: from.id,
        to: to.id,
        path: path`M ${from.x} ${from.y} C ${from.x + half} ${from.y} ${to.x - half} ${to.y} ${to.x} ${to.y}`,
      },
    ];
  });
}

function layOutArcs(shown: readonly StrandVersion[], byId: Map<string, Point>, size: Measures): Arc[] {
  return shown.flatMap((version): Arc[] => {
    const to = byId.get(version.id);
    const from = version.origin.from === null ? undefined : byId.get(version.origin.from);
    if (!to || !from || version.origin.kind !== 'restore' || to.x <= from.x) return [];
    const deepest = size.rulerY === null ? size.height - arc.fromEdge : size.rulerY - arc.fromRuler;
    const depth = Math.min(deepest, size.lowerY + size.radius + arc.clear + (to.x - from.x) * arc.sag);
    // A cubic's middle lies at 3/4 of the way from its ends to its handles.
    const handle = size.lowerY + ((depth - size.lowerY) * 4) / 3;
    const lean = (to.x - from.x) * arc.lean;
    return [
      {
        from: from.id,
        to: to.id,
        label: from.label,
        labelX: (from.x + to.x) / 2,
        labelY: depth + arc.label,
        path: path`M ${from.x} ${from.y + from.radius} C ${from.x + lean} ${handle} ${to.x - lean} ${handle} ${to.x} ${to.y + to.radius}`,
      },
    ];
  });
}

/** Most beads drawn on a thread; more saves are only counted in words. */
const maximumBeads = 7;

function layOutThread(
  input: StrandInput,
  byId: Map<string, Point>,
  nowX: number,
  size: Measures,
): Thread | null {
  const { custody, now } = input;
  const base = custody?.baseId ? byId.get(custody.baseId) : undefined;
  if (!custody || !base) return null;
  const ring = { x: nowX, y: size.ringY, radius: size.ring, left: shareLeft(custody, now) };
  const end = { x: ring.x - ring.radius, y: ring.y };
  const start = { x: base.x, y: base.y + base.radius };
  const reach = end.x - start.x;
  const drop = Math.min(size.height - 6, size.ringY + (size.ringY === size.lowerY ? size.ring + 5 : 8));
  const handles = [
    { x: start.x + reach * thread.leaves, y: drop },
    { x: start.x + reach * thread.arrives, y: drop },
  ] as const;
  const count = Math.min(custody.saves, maximumBeads);
  const beads = Array.from({ length: count }, (_, index) =>
    bezier([start, ...handles, end], thread.from + (thread.along * (index + 1)) / (count + 1)),
  );
  const overdue = custody.until !== null && custody.until.getTime() < now.getTime();
  const due =
    custody.until === null || input.size === 'small'
      ? null
      : { x: nowX + (overdue ? thread.overdue : thread.due), y: size.ringY, overdue };
  return {
    ring,
    beads,
    due,
    path: path`M ${start.x} ${start.y} C ${handles[0].x} ${handles[0].y} ${handles[1].x} ${handles[1].y} ${end.x} ${end.y}`,
  };
}

/** A cut thread hangs from its base until the copy is brought in. */
function layOutCut(
  input: StrandInput,
  byId: Map<string, Point>,
  size: Measures,
): { path: string; end: Spot }[] {
  const { cut: length } = size;
  return [...new Set(input.setAside ?? [])].flatMap((baseId) => {
    const base = byId.get(baseId);
    if (!base) return [];
    const [start, end] = [
      { x: base.x, y: base.y + base.radius },
      { x: base.x + length * 0.45, y: base.y + base.radius + length },
    ];
    return [
      {
        end,
        path: path`M ${start.x} ${start.y} C ${start.x - length * 0.5} ${start.y + length * 0.6} ${end.x + length * 0.5} ${start.y + length * 0.4} ${end.x} ${end.y}`,
      },
    ];
  });
}

/** How much of a check-out's time is left, 0 to 1; 1 where it has no end. */
export function shareLeft(custody: Pick<StrandCustody, 'since' | 'until'>, now: Date): number {
  if (custody.until === null) return 1;
  const whole = custody.until.getTime() - custody.since.getTime();
  return whole <= 0 ? 0 : Math.min(1, Math.max(0, (custody.until.getTime() - now.getTime()) / whole));
}

/** The spot at a share of a cubic Bézier curve, given by its ends and handles. */
function bezier([a, b, c, d]: readonly [Spot, Spot, Spot, Spot], t: number): Spot {
  const at = (k: 'x' | 'y'): number =>
    a[k] * (1 - t) ** 3 + 3 * b[k] * t * (1 - t) ** 2 + 3 * c[k] * t ** 2 * (1 - t) + d[k] * t ** 3;
  return { x: round(at('x')), y: round(at('y')) };
}
interface Spot {
  x: number;
  y: number;
}

function layOutGhosts(input: StrandInput, nowX: number, size: Measures): Ghost[] {
  if (!input.toCome) return [];
  const { minor, major } = input.toCome;
  const ghosts: Ghost[] = [
    {
      level: 'major',
      label: major,
      x: nowX + size.ghostMajor,
      y: size.upperY,
      radius: size.radius * ghostFactor,
    },
  ];
  if (minor !== null)
    ghosts.unshift({
      level: 'minor',
      label: minor,
      x: nowX + size.ghostMinor,
      y: size.lowerY,
      radius: size.radius * ghostFactor,
    });
  return ghosts;
}

function layOutRuler(
  shown: readonly StrandVersion[],
  points: readonly Point[],
  at: { left: number; nowX: number; y: number },
  { size, now }: Frame,
): NonNullable<StrandDrawing['ruler']> {
  const first = shown[0]?.at ?? now;
  const times = new Map(shown.map((version) => [version.id, version]));
  const span = Math.max(1, now.getTime() - first.getTime());
  const place = (time: Date): number =>
    round(at.left + ((time.getTime() - first.getTime()) / span) * (at.nowX - at.left));
  return {
    y: at.y,
    ticks: rulerTicks(first, now, at.nowX - at.left).map((tick) => ({ ...tick, x: place(tick.at) })),
    hairlines: points.flatMap((point) => {
      const version = times.get(point.id);
      return version
        ? [
            {
              id: point.id,
              x1: point.x,
              y1: Math.max(point.y, size.upperY) + point.radius,
              x2: place(version.at),
              y2: at.y,
            },
          ]
        : [];
    }),
  };
}

const round = (value: number): number => Math.round(value * 10) / 10;
function path(strings: TemplateStringsArray, ...values: number[]): string {
  return strings
    .map((text, index) => text + (index < values.length ? `${round(elementAt(values, index))}` : ''))
    .join('');
}
