import type { OriginKind, Standing, State } from '../versions/version.ts';
import { rulerTicks, type Tick } from './ruler.ts';

/** A version as the Strand draws it. Only versions the viewer sees are given, so that no gap shows. */
export interface StrandVersion {
  id: string;
  label: string;
  state: State;
  standing: Standing | null;
  at: Date;
  origin: { kind: OriginKind; from: string | null };
}
export interface StrandCustody {
  /** Null where the viewer may not see the base: then no thread is drawn. */
  baseId: string | null;
  since: Date;
  until: Date | null;
  saves: number;
}
export interface StrandInput {
  /** Oldest first. */
  versions: readonly StrandVersion[];
  custody: StrandCustody | null;
  /** The numbers to come, for whoever may check in. */
  toCome: { minor: string | null; major: string } | null;
  now: Date;
  /** Width there is, in CSS pixels. The drawing may be wider when the versions do not fit. */
  width: number;
  size: 'small' | 'large';
}

export type PointShape = 'solid' | 'smallSolid' | 'open' | 'bentBack' | 'resting' | 'hollowCentred' | 'struck';
export interface Point { id: string; label: string; x: number; y: number; radius: number; line: 'upper' | 'lower'; shape: PointShape; labelShown: boolean }
/** Where a version governs or governed, along the upper line. */
export interface InkBar { id: string; x1: number; x2: number; governs: boolean }
/** A curve, as the `d` of an SVG path. */
export interface Curve { from: string; to: string; path: string }
export interface Arc extends Curve { label: string; labelX: number; labelY: number }
export interface Thread { path: string; beads: { x: number; y: number }[]; ring: { x: number; y: number; radius: number; left: number }; due: { x: number; y: number; overdue: boolean } | null }
export interface Ghost { level: 'minor' | 'major'; label: string; x: number; y: number; radius: number }

/** All positions in CSS pixels from the drawing's upper left corner. */
export interface StrandDrawing {
  width: number;
  height: number;
  upperY: number;
  lowerY: number;
  lineStart: number;
  nowX: number;
  points: Point[];
  bars: InkBar[];
  rises: Curve[];
  arcs: Arc[];
  thread: Thread | null;
  ghosts: Ghost[];
  /** Versions before the first one drawn, shown as hatching. */
  earlier: number;
  ruler: { y: number; ticks: Tick[]; hairlines: { id: string; x1: number; y1: number; x2: number; y2: number }[] } | null;
}

interface Measures {
  height: number; upperY: number; lowerY: number; rulerY: number | null; ringY: number;
  left: number; hatch: number; leastPitch: number; mostPitch: number; radius: number; ring: number;
  ghostMinor: number; ghostMajor: number; label: number; publications: number;
}
const measures: Record<StrandInput['size'], Measures> = {
  large: {
    height: 256, upperY: 58, lowerY: 136, rulerY: 226, ringY: 174, left: 28, hatch: 34, leastPitch: 34, mostPitch: 104, radius: 6, ring: 14,
    ghostMinor: 58, ghostMajor: 106, label: 36, publications: Infinity,
  },
  small: {
    height: 46, upperY: 13, lowerY: 32, rulerY: null, ringY: 32, left: 36, hatch: 16, leastPitch: 13, mostPitch: 26, radius: 4, ring: 5,
    ghostMinor: 24, ghostMajor: 24, label: 0, publications: 6,
  },
};

/**
 * Lays out a Strand (docs/interface.md): published versions on the upper line, drafts on the lower, one step of the axis a
 * version; a calendar ruler below, joined to each point by a hairline; restore arcs, the custody thread, the numbers to come.
 */
export function layOutStrand(input: StrandInput): StrandDrawing {
  const size = measures[input.size];
  const shown = versionsShown(input, size);
  const earlier = input.versions.length - shown.length;
  const right = rightMargin(input, size);
  const left = size.left + (earlier > 0 ? size.hatch : 0);
  const gap = gapBeforeNow(input, size);
  const room = input.width - left - right - gap;
  const pitch = Math.min(size.mostPitch, Math.max(size.leastPitch, room / Math.max(1, shown.length - 1)));
  const lastX = left + pitch * Math.max(0, shown.length - 1);
  const nowX = Math.max(input.width - right, lastX + gap);
  const points = layOutPoints(shown, left, pitch, size);
  const byId = new Map(points.map((point) => [point.id, point]));
  const ghosts = layOutGhosts(input, nowX, size);
  return {
    width: nowX + right, height: size.height, upperY: size.upperY, lowerY: size.lowerY, lineStart: size.left - 6, nowX,
    points, earlier, ghosts,
    bars: layOutBars(shown, byId, nowX),
    rises: layOutRises(shown, byId),
    arcs: layOutArcs(shown, byId, size),
    thread: layOutThread(input, byId, nowX, size),
    ruler: size.rulerY === null ? null : layOutRuler(shown, points, input.now, { left, nowX, y: size.rulerY }, size),
  };
}

/** Small Strands show the last six publications and what came after the seventh, as far as there is room. */
function versionsShown(input: StrandInput, size: Measures): readonly StrandVersion[] {
  if (input.size === 'large') return input.versions;
  const published = input.versions.flatMap((version, index) => (isUpper(version) ? [index] : []));
  const seventh = published.at(-size.publications - 1);
  const start = seventh === undefined ? 0 : seventh + 1;
  const room = input.width - size.left - size.hatch - rightMargin(input, size) - gapBeforeNow(input, size);
  const fits = Math.max(2, Math.floor(room / size.leastPitch) + 1);
  return input.versions.slice(Math.max(start, input.versions.length - fits));
}

/** Room between the last point and now; a thread needs more of it. */
function gapBeforeNow(input: StrandInput, size: Measures): number {
  return size.leastPitch * (input.custody?.baseId ? 2.4 : 1.2);
}

function rightMargin(input: StrandInput, size: Measures): number {
  if (input.toCome) return size.ghostMajor + (input.size === 'large' ? 40 : 34);
  return input.size === 'large' ? (input.custody?.baseId ? 110 : 36) : 14;
}

const isUpper = (version: StrandVersion): boolean => version.state === 'published' || version.state === 'withdrawn';

function shapeOf(version: StrandVersion): PointShape {
  switch (version.state) {
    case 'published': return version.standing === 'inForce' ? 'solid' : version.standing === 'scheduled' ? 'hollowCentred' : 'smallSolid';
    case 'withdrawn': return 'struck';
    case 'rejected': return 'bentBack';
    case 'approved': return 'resting';
    default: return 'open';
  }
}

function layOutPoints(shown: readonly StrandVersion[], left: number, pitch: number, size: Measures): Point[] {
  const nextLabel = { upper: Infinity, lower: Infinity };
  return shown.map((version, index): Point => {
    const line = isUpper(version) ? 'upper' : 'lower';
    const shape = shapeOf(version);
    return {
      id: version.id, label: version.label, line, shape, labelShown: false,
      x: left + index * pitch, y: line === 'upper' ? size.upperY : size.lowerY,
      radius: shape === 'solid' ? size.radius * 1.3 : shape === 'smallSolid' ? size.radius * 0.85 : size.radius,
    };
  }).reverse().map((point) => {
    // From the right, so that the newest keep their labels where there is no room for all.
    const labelShown = size.label > 0 && nextLabel[point.line] - point.x >= size.label;
    if (labelShown) nextLabel[point.line] = point.x;
    return { ...point, labelShown };
  }).reverse();
}

function layOutBars(shown: readonly StrandVersion[], byId: Map<string, Point>, nowX: number): InkBar[] {
  const governing = shown.filter((version) => version.state === 'published' && version.standing !== 'scheduled');
  return governing.map((version, index) => {
    const next = governing[index + 1];
    const governs = version.standing === 'inForce';
    return { id: version.id, governs, x1: x(byId, version.id), x2: governs || !next ? nowX : x(byId, next.id) };
  });
}
const x = (byId: Map<string, Point>, id: string): number => byId.get(id)?.x ?? 0;

/** A published version rises from the draft it was made of. */
function layOutRises(shown: readonly StrandVersion[], byId: Map<string, Point>): Curve[] {
  return shown.flatMap((version): Curve[] => {
    const to = byId.get(version.id);
    const from = version.origin.from === null ? undefined : byId.get(version.origin.from);
    if (!to || !from || version.origin.kind === 'restore' || from.line !== 'lower' || to.line !== 'upper') return [];
    const half = (to.x - from.x) / 2;
    return [{ from: from.id, to: to.id, path: path`M ${from.x} ${from.y} C ${from.x + half} ${from.y} ${to.x - half} ${to.y} ${to.x} ${to.y}` }];
  });
}

function layOutArcs(shown: readonly StrandVersion[], byId: Map<string, Point>, size: Measures): Arc[] {
  return shown.flatMap((version): Arc[] => {
    const to = byId.get(version.id);
    const from = version.origin.from === null ? undefined : byId.get(version.origin.from);
    if (!to || !from || version.origin.kind !== 'restore') return [];
    const deepest = size.rulerY === null ? size.height - 4 : size.rulerY - 26;
    const depth = Math.min(deepest, size.lowerY + size.radius + 8 + (to.x - from.x) / 14);
    // A cubic's middle lies at 3/4 of the way from its ends to its handles.
    const handle = size.lowerY + ((depth - size.lowerY) * 4) / 3;
    const lean = (to.x - from.x) * 0.12;
    return [{
      from: from.id, to: to.id, label: from.label, labelX: (from.x + to.x) / 2, labelY: depth + 14,
      path: path`M ${from.x} ${from.y + from.radius} C ${from.x + lean} ${handle} ${to.x - lean} ${handle} ${to.x} ${to.y + to.radius}`,
    }];
  });
}

/** Most beads drawn on a thread; more saves are only counted in words. */
const mostBeads = 7;

function layOutThread(input: StrandInput, byId: Map<string, Point>, nowX: number, size: Measures): Thread | null {
  const { custody, now } = input;
  const base = custody?.baseId ? byId.get(custody.baseId) : undefined;
  if (!custody || !base) return null;
  const ring = { x: nowX, y: size.ringY, radius: size.ring, left: shareLeft(custody, now) };
  const end = { x: ring.x - ring.radius, y: ring.y };
  const start = { x: base.x, y: base.y + base.radius };
  const reach = end.x - start.x;
  const drop = Math.min(size.height - 6, size.ringY + (size.ringY === size.lowerY ? size.ring + 5 : 8));
  const handles = [{ x: start.x + reach * 0.2, y: drop }, { x: start.x + reach * 0.6, y: drop }] as const;
  const count = Math.min(custody.saves, mostBeads);
  const beads = Array.from({ length: count }, (_, index) => bezier(start, handles[0], handles[1], end, 0.3 + (0.6 * (index + 1)) / (count + 1)));
  const overdue = custody.until !== null && custody.until.getTime() < now.getTime();
  const due = custody.until === null || input.size === 'small' ? null : { x: overdue ? nowX - 44 : nowX + 66, y: size.ringY, overdue };
  return {
    ring, beads, due,
    path: path`M ${start.x} ${start.y} C ${handles[0].x} ${handles[0].y} ${handles[1].x} ${handles[1].y} ${end.x} ${end.y}`,
  };
}

/** How much of a check-out's time is left, 0 to 1; 1 where it has no end. */
export function shareLeft(custody: Pick<StrandCustody, 'since' | 'until'>, now: Date): number {
  if (custody.until === null) return 1;
  const whole = custody.until.getTime() - custody.since.getTime();
  return whole <= 0 ? 0 : Math.min(1, Math.max(0, (custody.until.getTime() - now.getTime()) / whole));
}

function bezier(a: Spot, b: Spot, c: Spot, d: Spot, t: number): Spot {
  const at = (k: 'x' | 'y'): number => a[k] * (1 - t) ** 3 + 3 * b[k] * t * (1 - t) ** 2 + 3 * c[k] * t ** 2 * (1 - t) + d[k] * t ** 3;
  return { x: round(at('x')), y: round(at('y')) };
}
interface Spot { x: number; y: number }

function layOutGhosts(input: StrandInput, nowX: number, size: Measures): Ghost[] {
  if (!input.toCome) return [];
  const { minor, major } = input.toCome;
  const ghosts: Ghost[] = [{ level: 'major', label: major, x: nowX + size.ghostMajor, y: size.upperY, radius: size.radius * 1.6 }];
  if (minor !== null) ghosts.unshift({ level: 'minor', label: minor, x: nowX + size.ghostMinor, y: size.lowerY, radius: size.radius * 1.6 });
  return ghosts;
}

function layOutRuler(
  shown: readonly StrandVersion[], points: readonly Point[], now: Date, at: { left: number; nowX: number; y: number }, size: Measures,
): NonNullable<StrandDrawing['ruler']> {
  const first = shown[0]?.at ?? now;
  const span = Math.max(1, now.getTime() - first.getTime());
  const place = (time: Date): number => round(at.left + ((time.getTime() - first.getTime()) / span) * (at.nowX - at.left));
  return {
    y: at.y,
    ticks: rulerTicks(first, now, at.nowX - at.left).map((tick) => ({ ...tick, x: place(tick.at) })),
    hairlines: points.map((point, index) => ({
      id: point.id, x1: point.x, y1: Math.max(point.y, size.upperY) + point.radius, x2: place((shown[index] as StrandVersion).at), y2: at.y,
    })),
  };
}

const round = (value: number): number => Math.round(value * 10) / 10;
function path(strings: TemplateStringsArray, ...values: number[]): string {
  return strings.map((text, index) => text + (index < values.length ? `${round(values[index] as number)}` : '')).join('');
}
