import type { Document, Version } from '@polychron/contract';
import { layOutStrand, type Point, type StrandDrawing, type StrandVersion } from '@polychron/core';
import { type CSSProperties, type KeyboardEvent, type ReactNode, useEffect, useId, useRef, useState } from 'react';
import { stateWords } from '../VersionNumber.tsx';
import { dayTime, fullTime } from '../when.ts';
import { Ghosts, type Landing } from './Ghosts.tsx';
import { useWidth } from './useWidth.ts';

type Drawn = Document['strand'][number] & Partial<Pick<Version, 'comment' | 'author'>>;

interface Props {
  document: Pick<Document, 'number' | 'custody' | 'toCome' | 'versions'>;
  /** Oldest first. */
  versions: readonly Drawn[];
  size: 'small' | 'large';
  /** Width to draw for; measured where not given. */
  width?: number;
  chosen?: string | undefined;
  onChoose?: (label: string) => void;
  /** Two labels typed one after another: compare them. */
  onCompare?: (from: string, to: string) => void;
  /** Given while I hold the document: where the next version may land. */
  landing?: Landing | undefined;
}

/** A document's drawn history; its positions are computed in core. */
export function Strand({ document, versions, size, width, chosen, onChoose, onCompare, landing }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const measured = useWidth(frame, width);
  const byLabel = new Map(versions.map((version) => [version.label, version.id]));
  const custody = document.custody;
  const drawing = layOutStrand({
    versions: versions.map((version): StrandVersion => ({
      ...version, at: new Date(version.at), origin: { kind: version.origin.kind, from: version.origin.from === null ? null : byLabel.get(version.origin.from) ?? null },
    })),
    custody: custody && {
      baseId: custody.base === null ? null : byLabel.get(custody.base) ?? null,
      since: new Date(custody.since), until: custody.until ? new Date(custody.until) : null, saves: custody.saves,
    },
    toCome: landing ? document.toCome : null,
    now: new Date(), width: measured, size,
  });
  useEffect(() => { if (frame.current && size === 'large') frame.current.scrollLeft = frame.current.scrollWidth; }, [size, measured, drawing.width, versions.length]);
  return (
    <div ref={frame} className={`strand strand-${size}`} style={{ '--strand-height': `${drawing.height}px` } as CSSProperties}>
      {measured > 0 && (
        <div className="strand-canvas" style={{ width: drawing.width, height: drawing.height }}>
          <Drawing drawing={drawing} versions={versions} size={size} custody={custody} total={document.versions} summary={summaryOf(document, versions)}
            chosen={chosen} onChoose={onChoose} onCompare={onCompare} />
          {landing && <Ghosts ghosts={drawing.ghosts} size={size} landing={landing} />}
        </div>
      )}
    </div>
  );
}

/** What the drawing says, for whoever hears it. */
function summaryOf(document: Props['document'], versions: readonly Drawn[]): string {
  const inForce = versions.find((version) => version.standing === 'inForce');
  const latest = versions.at(-1);
  return [
    `History of ${document.number}: ${document.versions} ${document.versions === 1 ? 'version' : 'versions'}`,
    inForce ? `${inForce.label} in force` : 'nothing in force',
    latest && latest !== inForce ? `latest ${latest.label}, ${stateWords(latest)}` : null,
    document.custody ? `held by ${document.custody.mine ? 'you' : document.custody.holder.name}` : null,
  ].filter(Boolean).join('; ');
}

interface DrawingProps {
  drawing: StrandDrawing; versions: readonly Drawn[]; size: Props['size']; custody: Document['custody']; total: number; summary: string;
  chosen?: string | undefined; onChoose?: Props['onChoose'] | undefined; onCompare?: Props['onCompare'] | undefined;
}

function Drawing({ drawing, versions, size, custody, total, summary, chosen, onChoose, onCompare }: DrawingProps) {
  const { upperY, lowerY, nowX, lineStart } = drawing;
  const hatch = useId();
  const byId = new Map(versions.map((version) => [version.id, version]));
  const interactive = size === 'large' && onChoose !== undefined;
  const [at, setAt] = useState<number | null>(null);
  const typed = useTyping(drawing.points, onChoose, onCompare);
  const focusIndex = at ?? Math.max(0, drawing.points.findIndex((point) => point.label === chosen));
  const move = (event: KeyboardEvent<SVGSVGElement>): void => {
    const step = { ArrowLeft: -1, ArrowRight: 1, Home: -Infinity, End: Infinity }[event.key];
    if (step === undefined) { typed(event); return; }
    event.preventDefault();
    const next = Math.min(drawing.points.length - 1, Math.max(0, focusIndex + step));
    setAt(next);
    event.currentTarget.querySelector<SVGGElement>(`[data-point="${next}"]`)?.focus();
  };
  return (
    <svg width={drawing.width} height={drawing.height} role={interactive ? 'group' : 'img'} aria-label={summary} onKeyDown={interactive ? move : undefined}>
      <defs><pattern id={hatch} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><path d="M0 0V5" className="s-hatch" /></pattern></defs>
      <path className="s-line" d={`M${lineStart} ${upperY}H${nowX}M${lineStart} ${lowerY}H${nowX}`} />
      {size === 'small' && <text className="s-total" x={lineStart - 8} y={(upperY + lowerY) / 2 + 4}>{total}</text>}
      {drawing.earlier > 0 && (
        <g>
          <rect x={lineStart} y={upperY - 3} width={size === 'small' ? 13 : 26} height={lowerY - upperY + 6} fill={`url(#${hatch})`} />
          <title>{`${drawing.earlier} earlier`}</title>
        </g>
      )}
      {drawing.ruler && <Ruler ruler={drawing.ruler} from={lineStart} to={nowX} />}
      {drawing.bars.map((bar) => <path key={bar.id} className={bar.governs ? 's-bar s-bar-governs' : 's-bar'} d={`M${bar.x1} ${upperY}H${bar.x2}`} />)}
      {drawing.rises.map((rise) => <path key={rise.to} className="s-rise" d={rise.path} />)}
      {drawing.arcs.map((arc) => (
        <g key={arc.to}>
          <path className="s-arc" d={arc.path} />
          {size === 'large' && <text className="s-arc-label" x={arc.labelX} y={arc.labelY}>content of {arc.label}</text>}
        </g>
      ))}
      <path className="s-now" d={`M${nowX} ${Math.max(2, upperY - 42)}V${drawing.ruler ? drawing.ruler.y + 4 : drawing.height - 2}`} />
      {size === 'large' && <text className="s-now-label" x={nowX} y={upperY - 46}>now</text>}
      {drawing.thread && custody && <Thread thread={drawing.thread} custody={custody} size={size} />}
      {drawing.points.map((point, index) => (
        <StrandPoint key={point.id} point={point} index={index} version={byId.get(point.id)} chosen={point.label === chosen}
          focusable={interactive && index === focusIndex} onChoose={interactive ? onChoose : undefined} />
      ))}
    </svg>
  );
}

/** Typing `3.14` jumps to that version, `3.14 5.0` compares the two. A pause begins anew. */
function useTyping(points: readonly Point[], onChoose: Props['onChoose'], onCompare: Props['onCompare']): (event: KeyboardEvent) => void {
  const typed = useRef({ text: '', at: 0 });
  return (event) => {
    if (!/^[\d.~ ]$/.test(event.key)) return;
    event.preventDefault();
    const now = event.timeStamp;
    const text = (now - typed.current.at > 1500 ? '' : typed.current.text) + event.key;
    typed.current = { text, at: now };
    const [from, to] = text.trim().split(/\s+/);
    const known = (label: string | undefined): label is string => points.some((point) => point.label === label);
    if (known(from) && known(to)) onCompare?.(from, to);
    else if (known(from) && to === undefined) onChoose?.(from);
  };
}

interface PointProps { point: Point; index: number; version: Drawn | undefined; chosen: boolean; focusable: boolean; onChoose?: Props['onChoose'] | undefined }

function StrandPoint({ point, index, version, chosen, focusable, onChoose }: PointProps) {
  const name = version ? [
    `${version.label}, ${stateWords(version)}`, fullTime(version.at), version.origin.from && version.origin.kind === 'restore' ? `content of ${version.origin.from}` : null, version.comment,
  ].filter(Boolean).join('. ') : point.label;
  const button = onChoose ? {
    role: 'button', tabIndex: focusable ? 0 : -1, 'aria-pressed': chosen, 'aria-label': name, onClick: () => onChoose(point.label),
    onKeyDown: (event: KeyboardEvent) => { if (event.key === 'Enter') { event.preventDefault(); onChoose(point.label); } },
  } : {};
  return (
    <g className={`s-point s-${point.line} s-${point.shape} ${chosen ? 's-chosen' : ''}`} data-point={index} {...button}>
      <title>{name}</title>
      {onChoose && <circle className="s-target" cx={point.x} cy={point.y} r={15} />}
      {chosen && <circle className="s-ring-chosen" cx={point.x} cy={point.y} r={point.radius + 5} />}
      <circle className="s-dot" cx={point.x} cy={point.y} r={point.radius} />
      {point.shape === 'struck' && <path className="s-strike" d={`M${point.x - 9} ${point.y + 7}L${point.x + 9} ${point.y - 7}`} />}
      {point.labelShown && <text className="s-label" x={point.x} y={point.y - point.radius - 8}>{point.label}</text>}
    </g>
  );
}

function Ruler({ ruler, from, to }: { ruler: NonNullable<StrandDrawing['ruler']>; from: number; to: number }): ReactNode {
  return (
    <g className="s-ruler" aria-hidden="true">
      {ruler.hairlines.map((line) => <path key={line.id} className="s-hair" d={`M${line.x1} ${line.y1}L${line.x2} ${line.y2}`} />)}
      <path className="s-axis" d={`M${from} ${ruler.y}H${to}`} />
      {ruler.ticks.map((tick) => (
        <g key={tick.at.getTime()}>
          <path className="s-axis" d={`M${tick.x} ${ruler.y}v5`} />
          <text className="s-tick" x={tick.x + 4} y={ruler.y + 15}>{tick.label}</text>
        </g>
      ))}
    </g>
  );
}

function Thread({ thread, custody, size }: { thread: NonNullable<StrandDrawing['thread']>; custody: NonNullable<Document['custody']>; size: Props['size'] }) {
  const { ring, due } = thread;
  const circumference = 2 * Math.PI * ring.radius;
  const initials = custody.holder.name.split(/[\s.]+/).filter(Boolean).map((part) => part[0]).join('').slice(0, 2).toUpperCase();
  return (
    <g className={custody.overdue ? 's-custody s-overdue' : 's-custody'} aria-hidden="true">
      <path className="s-thread" d={thread.path} />
      {thread.beads.map((bead, index) => <circle key={index} className="s-bead" cx={bead.x} cy={bead.y} r={size === 'large' ? 3 : 1.6} />)}
      {due && <path className="s-due-line" d={`M${ring.x} ${due.y}H${due.x}`} />}
      {due && <path className="s-due" d={`M${due.x} ${due.y - 9}v18`} />}
      {due && custody.until && <text className="s-due-label" x={due.overdue ? due.x - 4 : due.x} y={due.y + 24} textAnchor={due.overdue ? 'end' : 'middle'}>{dayTime(custody.until)}</text>}
      <circle className="s-holder" cx={ring.x} cy={ring.y} r={ring.radius} />
      <circle className="s-holder-left" cx={ring.x} cy={ring.y} r={ring.radius} strokeDasharray={`${circumference * ring.left} ${circumference}`}
        transform={`rotate(-90 ${ring.x} ${ring.y})`} />
      {size === 'large' && <text className="s-initials" x={ring.x} y={ring.y + 4}>{initials}</text>}
    </g>
  );
}
