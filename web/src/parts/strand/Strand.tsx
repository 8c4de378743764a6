import type { Document, Version } from '@polychron/contract';
import {
  type ApprovalMark,
  type FoldMark,
  layOutStrand,
  type Point,
  type StrandDrawing,
  type StrandVersion,
  bareNumber,
  numberWords,
} from '@polychron/core';
import {
  type CSSProperties,
  type FocusEvent,
  type KeyboardEvent,
  type ReactNode,
  useEffect,
  useId,
  useRef,
  useState,
} from 'react';
import { decidedWords } from '../approval/decidedWords.ts';
import { labelWords, stateWords } from '../versionNumber/VersionNumber.tsx';
import { useLooking } from '../../ui/looking.ts';
import { bytes, date, dayTime, fullTime } from '../../ui/when.ts';
import { Ghosts } from '../checkIn/Ghosts.tsx';
import type { Landing } from '../checkIn/landing.ts';
import { useWidth } from '../../ui/useWidth.ts';
import './strand.css';

type Drawn = Document['strand'][number] & Partial<Pick<Version, 'comment' | 'author' | 'approval'>>;

interface Props {
  document: Pick<Document, 'number' | 'custody' | 'approval' | 'toCome' | 'versions'> &
    Partial<Pick<Document, 'setAside'>>;
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
  /** A number to come opens the label of its check-in. */
  onLanding?: () => void;
  /** Versions that proposed rules would thin: they fade. */
  fading?: ReadonlySet<string> | undefined;
  /** Versions to point at. */
  lit?: ReadonlySet<string> | undefined;
  /** The moment it is drawn for; the present one unless given. */
  now?: Date;
}

const nothing: ReadonlySet<string> = new Set();

/** Whoever sees one version and makes none has no history to look at: one line says it. */
const seesOneOnly = ({ versions, toCome, approval }: Props['document']): boolean =>
  versions === 1 && toCome === null && approval === null;

/** A document's drawn history; its positions are computed in core. */
export function Strand({
  document,
  versions,
  size,
  width,
  chosen,
  onChoose,
  onCompare,
  landing,
  onLanding,
  fading = nothing,
  lit = nothing,
  now: given,
}: Props) {
  const at = useLooking((state) => state.at);
  const now = given ?? (at === null ? new Date() : new Date(at));
  const frame = useRef<HTMLDivElement>(null);
  const measured = useWidth(frame, width);
  const byLabel = new Map(versions.map((version) => [version.label, version.id]));
  const [opened, setOpened] = useState<ReadonlySet<string>>(nothing);
  const { custody, approval, setAside = [] } = document;
  const drawing = layOutStrand({
    versions: versions.map((version): StrandVersion => ({
      ...version,
      at: new Date(version.at),
      origin: {
        kind: version.origin.kind,
        from: version.origin.from === null ? null : (byLabel.get(version.origin.from) ?? null),
      },
      thinned: version.thinned && {
        at: new Date(version.thinned.at),
        until: new Date(version.thinned.until),
      },
      inForceFrom: version.inForceFrom ? new Date(version.inForceFrom) : null,
    })),
    opened,
    approval: approval && {
      versionId: byLabel.get(approval.version) ?? '',
      mode: approval.mode,
      submittedAt: new Date(approval.at),
      decided: approval.posts.map(({ decision }) => decision === 'approve'),
    },
    custody: custody && {
      baseId: custody.base === null ? null : (byLabel.get(custody.base) ?? null),
      since: new Date(custody.since),
      until: custody.until ? new Date(custody.until) : null,
      saves: custody.saves,
    },
    setAside: setAside.map(({ baseId }) => baseId),
    toCome: landing ? document.toCome : null,
    now,
    width: measured,
    size: size === 'large' && seesOneOnly(document) ? 'slim' : size,
  });
  useEffect(() => {
    if (frame.current && size === 'large') frame.current.scrollLeft = frame.current.scrollWidth;
  }, [size, measured, drawing.width, versions.length]);
  return (
    <div
      ref={frame}
      className={`strand strand-${size}`}
      style={{ '--strand-height': `${drawing.height}px` } as CSSProperties}
    >
      {measured > 0 && (
        <div className="strand-canvas" style={{ width: drawing.width, height: drawing.height }}>
          <Drawing
            drawing={drawing}
            versions={versions}
            size={size}
            custody={custody}
            total={document.versions}
            summary={summaryOf(document, versions)}
            nowWords={given === undefined && at !== null ? date(at) : 'now'}
            chosen={chosen}
            onChoose={onChoose}
            onCompare={onCompare}
            fading={fading}
            lit={lit}
            onOpen={(id) => setOpened((now_) => new Set([...now_, id]))}
          />
          {landing && <Ghosts ghosts={drawing.ghosts} size={size} landing={landing} onOpen={onLanding} />}
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
    inForce ? `${numberWords(inForce.label)} in force` : 'nothing in force',
    latest && latest !== inForce ? `latest ${latest.label}, ${stateWords(latest)}` : null,
    document.approval
      ? `${document.approval.version} waits for ${document.approval.waitingFor.map(({ name }) => name).join(', ')}`
      : null,
    document.custody ? `held by ${document.custody.mine ? 'you' : document.custody.holder.name}` : null,
    ...(document.setAside ?? []).map(({ holder, base }) => `a copy of ${base} set aside for ${holder.name}`),
  ]
    .filter(Boolean)
    .join('; ');
}

interface DrawingProps {
  drawing: StrandDrawing;
  versions: readonly Drawn[];
  size: Props['size'];
  custody: Document['custody'];
  total: number;
  summary: string;
  /** What the moment it is drawn for is called. */
  nowWords: string;
  chosen?: string | undefined;
  onChoose?: Props['onChoose'] | undefined;
  onCompare?: Props['onCompare'] | undefined;
  fading: ReadonlySet<string>;
  lit: ReadonlySet<string>;
  onOpen: (id: string) => void;
}

function Drawing({
  drawing,
  versions,
  size,
  custody,
  total,
  summary,
  nowWords,
  chosen,
  onChoose,
  onCompare,
  fading,
  lit,
  onOpen,
}: DrawingProps) {
  const { upperY, lowerY, nowX, lineStart } = drawing;
  const hatch = useId();
  const byId = new Map(versions.map((version) => [version.id, version]));
  const interactive = size === 'large' && onChoose !== undefined;
  const [at, setAt] = useState<number | null>(null);
  const typed = useTyping(versions, onChoose, onCompare);
  // The loupe goes from mark to mark along the axis, folds included; Enter opens one.
  const marks = [...drawing.points, ...drawing.folds].sort((a, b) => a.x - b.x);
  const place = new Map(marks.map((mark, index) => [mark.id, index]));
  const focusIndex =
    at ??
    Math.max(
      0,
      marks.findIndex((mark) => 'label' in mark && mark.label === chosen),
    );
  const move = (event: KeyboardEvent<SVGSVGElement>): void => {
    const step = { ArrowLeft: -1, ArrowRight: 1, Home: -Infinity, End: Infinity }[event.key];
    if (step === undefined) {
      typed(event);
      return;
    }
    event.preventDefault();
    const next = Math.min(marks.length - 1, Math.max(0, focusIndex + step));
    setAt(next);
    event.currentTarget.querySelector<SVGGElement>(`[data-point="${next}"]`)?.focus();
  };
  const svg = useRef<SVGSVGElement>(null);
  const refocus = useRef(false);
  const openFold = (id: string): void => {
    setAt(place.get(id) ?? null);
    refocus.current = true;
    onOpen(id);
  };
  // What was in an opened fold stands in its place, and the loupe with it.
  useEffect(() => {
    if (!refocus.current || at === null) return;
    refocus.current = false;
    svg.current?.querySelector<SVGGElement>(`[data-point="${at}"]`)?.focus();
  });
  const follow = (event: FocusEvent<SVGSVGElement>): void => {
    const index = event.target.closest('[data-point]')?.getAttribute('data-point');
    if (index) setAt(Number(index));
  };
  return (
    <svg
      ref={svg}
      width={drawing.width}
      height={drawing.height}
      role={interactive ? 'group' : 'img'}
      aria-label={summary}
      onKeyDown={interactive ? move : undefined}
      onFocus={interactive ? follow : undefined}
    >
      <defs>
        <pattern id={hatch} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <path d="M0 0V5" className="s-hatch" />
        </pattern>
      </defs>
      <path className="s-line" d={`M${lineStart} ${upperY}H${nowX}M${lineStart} ${lowerY}H${nowX}`} />
      {size === 'small' && (
        <text className="s-total" x={lineStart - 8} y={(upperY + lowerY) / 2 + 4}>
          {total}
        </text>
      )}
      {drawing.earlier > 0 && (
        <g>
          <rect
            x={lineStart}
            y={upperY - 3}
            width={size === 'small' ? 13 : 26}
            height={lowerY - upperY + 6}
            fill={`url(#${hatch})`}
          />
          <title>{`${drawing.earlier} earlier`}</title>
        </g>
      )}
      {drawing.ruler && <Ruler ruler={drawing.ruler} from={lineStart} to={nowX} />}
      {drawing.bars.map((bar) => (
        <path
          key={`${bar.id} ${bar.x1}`}
          className={`s-bar ${bar.governs ? 's-bar-governs' : ''} ${bar.ahead ? 's-bar-ahead' : ''} ${fading.has(bar.id) ? 's-fading' : ''}`}
          d={`M${bar.x1} ${upperY}H${bar.x2}`}
        />
      ))}
      {drawing.rises.map((rise) => (
        <path key={rise.to} className={`s-rise ${fading.has(rise.from) ? 's-fading' : ''}`} d={rise.path} />
      ))}
      {drawing.arcs.map((arc) => (
        <g key={arc.to}>
          <path className="s-arc" d={arc.path} />
          {size === 'large' && (
            <text className="s-arc-label" x={arc.labelX} y={arc.labelY}>
              content of {bareNumber(arc.label)}
            </text>
          )}
        </g>
      ))}
      <path
        className="s-now"
        d={`M${nowX} ${Math.max(2, upperY - 42)}V${drawing.ruler ? drawing.ruler.y + 4 : drawing.height - 2}`}
      />
      {size === 'large' && (
        <text className="s-now-label" x={nowX} y={Math.max(10, upperY - 46)}>
          {nowWords}
        </text>
      )}
      {drawing.cut.map(({ path, end }) => (
        <g key={path} className="s-cut" aria-hidden="true">
          <path d={path} />
          <circle cx={end.x} cy={end.y} r={size === 'large' ? 2.6 : 1.5} />
        </g>
      ))}
      {drawing.thread && custody && <Thread thread={drawing.thread} custody={custody} size={size} />}
      {drawing.approval && <ApprovalRise approval={drawing.approval} size={size} />}
      {drawing.folds.map((fold) => (
        <StrandFold
          key={fold.id}
          fold={fold}
          index={place.get(fold.id) ?? 0}
          size={size}
          focusable={interactive && place.get(fold.id) === focusIndex}
          onOpen={size === 'large' ? openFold : undefined}
        />
      ))}
      {drawing.points.map((point) => (
        <StrandPoint
          key={point.id}
          point={point}
          index={place.get(point.id) ?? 0}
          version={byId.get(point.id)}
          chosen={point.label === chosen}
          fading={fading.has(point.id)}
          lit={lit.has(point.id)}
          large={size === 'large'}
          focusable={interactive && place.get(point.id) === focusIndex}
          onChoose={interactive ? onChoose : undefined}
        />
      ))}
    </svg>
  );
}

/** Typing `3.14` jumps to that version, `3.14 5.0` compares the two. A pause begins anew. */
function useTyping(
  points: readonly { label: string }[],
  onChoose: Props['onChoose'],
  onCompare: Props['onCompare'],
): (event: KeyboardEvent) => void {
  const typed = useRef({ text: '', at: 0 });
  return (event) => {
    if (!/^[\d.~ ]$/.test(event.key)) return;
    event.preventDefault();
    const now = event.timeStamp;
    const text = (now - typed.current.at > 1500 ? '' : typed.current.text) + event.key;
    typed.current = { text, at: now };
    const [from, to] = text.trim().split(/\s+/);
    const known = (label: string | undefined): label is string =>
      points.some((point) => point.label === label);
    if (known(from) && known(to)) onCompare?.(from, to);
    else if (known(from) && to === undefined) onChoose?.(from);
  };
}

interface PointProps {
  point: Point;
  index: number;
  version: Drawn | undefined;
  chosen: boolean;
  fading: boolean;
  lit: boolean;
  large: boolean;
  focusable: boolean;
  onChoose?: Props['onChoose'] | undefined;
}

function StrandPoint({ point, index, version, chosen, fading, lit, large, focusable, onChoose }: PointProps) {
  const name = version
    ? [
        `${numberWords(version.label)}, ${stateWords(version)}`,
        fullTime(version.at),
        version.origin.from && version.origin.kind === 'restore'
          ? `content of ${numberWords(version.origin.from)}`
          : null,
        version.comment,
        version.approval && decidedWords(version.approval),
        version.thinned &&
          `thinned, ${point.shelf === null ? 'its content is gone' : `to be recovered until ${fullTime(version.thinned.until)}`}`,
        version.sheltered && 'sheltered',
        point.due && `comes into force ${fullTime(point.due.toISOString())}`,
        fading && 'would be thinned',
      ]
        .filter(Boolean)
        .join('. ')
    : point.label;
  const button = onChoose
    ? {
        role: 'button',
        tabIndex: focusable ? 0 : -1,
        'aria-pressed': chosen,
        'aria-label': name,
        onClick: () => onChoose(point.label),
        onKeyDown: (event: KeyboardEvent) => {
          if (event.key === 'Enter') {
            event.preventDefault();
            onChoose(point.label);
          }
        },
      }
    : {};
  const { x, y, radius } = point;
  return (
    <g
      className={`s-point s-${point.line} s-${point.shape} ${chosen ? 's-chosen' : ''} ${fading ? 's-fading' : ''}`}
      data-point={index}
      {...button}
    >
      <title>{name}</title>
      {lit && <circle className="s-lit" cx={x} cy={y} r={radius + 7} />}
      {onChoose && <circle className="s-target" cx={x} cy={y} r={15} />}
      {chosen && <circle className="s-ring-chosen" cx={x} cy={y} r={radius + 5} />}
      {point.shape === 'notch' ? (
        <Notch point={point} />
      ) : (
        <circle className="s-dot" cx={x} cy={y} r={radius} />
      )}
      {point.shape === 'struck' && <path className="s-strike" d={`M${x - 9} ${y + 7}L${x + 9} ${y - 7}`} />}
      {/* A rejected version rose, and bends back down. */}
      {point.shape === 'bentBack' && (
        <path
          className="s-bent"
          d={`M${x + radius} ${y}c${radius * 1.6} 0 ${radius} ${-radius * 3.4} ${radius * 2} ${-radius * 3.4}s${radius * 0.9} ${radius * 1.4} ${radius * 0.9} ${radius * 2.4}`}
        />
      )}
      {point.sheltered && (
        <path
          className="s-roof"
          d={`M${x - radius - 4} ${y - radius - 1}L${x} ${y - radius - 7}L${x + radius + 4} ${y - radius - 1}`}
        />
      )}
      {point.labelShown && (
        <text className="s-label" x={x} y={y - radius - (point.sheltered ? 12 : 8)}>
          {version ? labelWords({ ...version, label: bareNumber(version.label) }) : point.label}
        </text>
      )}
      {point.due && large && (
        <text className="s-due-date" x={x} y={y + radius + 16}>
          {dayTime(point.due.toISOString())}
        </text>
      )}
    </g>
  );
}

/**
 * Where content was: an open notch, and under it a line that shortens with the days left on the recovery
 * shelf.
 */
function Notch({ point: { x, y, radius, shelf } }: { point: Point }) {
  const half = radius * 0.7;
  return (
    <>
      <path className="s-vee" d={`M${x - half} ${y - half}L${x} ${y + half * 0.8}L${x + half} ${y - half}`} />
      {shelf !== null && (
        <path className="s-shelf" d={`M${x - radius} ${y + radius * 1.3}h${radius * 2 * shelf}`} />
      )}
    </>
  );
}

interface FoldProps {
  fold: FoldMark;
  index: number;
  size: Props['size'];
  focusable: boolean;
  onOpen?: ((id: string) => void) | undefined;
}

/** Drafts folded into a lens, or thinned versions into a dotted run; pressing it shows them one by one. */
function StrandFold({ fold, index, size, focusable, onOpen }: FoldProps) {
  const { x, y, width, height, count } = fold;
  const name =
    fold.kind === 'lens'
      ? `${count} drafts, ${numberWords(fold.first)} to ${numberWords(fold.last)}`
      : `${count} thinned versions, ${numberWords(fold.first)} to ${numberWords(fold.last)}, ${bytes(fold.bytes)}`;
  const open = onOpen
    ? {
        role: 'button',
        tabIndex: focusable ? 0 : -1,
        'aria-label': `${name}. Show them`,
        onClick: () => onOpen(fold.id),
        onKeyDown: (event: KeyboardEvent) => {
          if (event.key === 'Enter') {
            event.preventDefault();
            onOpen(fold.id);
          }
        },
      }
    : {};
  return (
    <g className={`s-point s-fold s-fold-${fold.kind}`} data-point={index} {...open}>
      <title>{name}</title>
      <rect
        className="s-target"
        x={x}
        y={y - Math.max(12, height / 2)}
        width={width}
        height={Math.max(24, height)}
      />
      {fold.kind === 'lens' ? (
        <path
          className="s-lens"
          style={{ fillOpacity: 0.12 + fold.darkness * 0.5 }}
          d={`M${x} ${y}Q${x + width / 2} ${y - height} ${x + width} ${y}Q${x + width / 2} ${y + height} ${x} ${y}Z`}
        />
      ) : (
        <path className="s-run" d={`M${x} ${y}H${x + width}`} />
      )}
      {fold.kind === 'lens' ? (
        <text className="s-count" x={x + width / 2} y={y + 4.5}>
          {count}
        </text>
      ) : (
        size === 'large' && (
          <text className="s-count s-count-run" x={x + width / 2} y={y - 8}>
            {count} · {bytes(fold.bytes)}
          </text>
        )
      )}
    </g>
  );
}

/** A version on its way up, past one post an approver. */
function ApprovalRise({ approval, size }: { approval: ApprovalMark; size: Props['size'] }) {
  return (
    <g className="s-approval" aria-hidden="true">
      <path className="s-approval-rise" d={approval.path} />
      {approval.posts.map((post, index) => (
        <path
          key={index}
          className={post.decided ? 's-post s-post-decided' : 's-post'}
          d={`M${post.x} ${post.y1}V${post.y2}`}
        />
      ))}
      {size === 'large' && (
        <text className="s-age" x={approval.ageX} y={approval.ageY}>
          {approval.days === 0 ? 'today' : `${approval.days} d`}
        </text>
      )}
    </g>
  );
}

function Ruler({
  ruler,
  from,
  to,
}: {
  ruler: NonNullable<StrandDrawing['ruler']>;
  from: number;
  to: number;
}): ReactNode {
  return (
    <g className="s-ruler" aria-hidden="true">
      {ruler.hairlines.map((line) => (
        <path key={line.id} className="s-hair" d={`M${line.x1} ${line.y1}L${line.x2} ${line.y2}`} />
      ))}
      <path className="s-axis" d={`M${from} ${ruler.y}H${to}`} />
      {ruler.ticks.map((tick) => (
        <g key={tick.at.getTime()}>
          <path className="s-axis" d={`M${tick.x} ${ruler.y}v5`} />
          <text className="s-tick" x={tick.x + 4} y={ruler.y + 15}>
            {tick.label}
          </text>
        </g>
      ))}
    </g>
  );
}

function Thread({
  thread,
  custody,
  size,
}: {
  thread: NonNullable<StrandDrawing['thread']>;
  custody: NonNullable<Document['custody']>;
  size: Props['size'];
}) {
  const { ring, due } = thread;
  const circumference = 2 * Math.PI * ring.radius;
  const initials = custody.holder.name
    .split(/[\s.]+/)
    .filter(Boolean)
    .map((part) => part[0])
    .join('')
    .slice(0, 2)
    .toUpperCase();
  return (
    <g className={custody.overdue ? 's-custody s-overdue' : 's-custody'} aria-hidden="true">
      <path className="s-thread" d={thread.path} />
      {thread.beads.map((bead, index) => (
        <circle key={index} className="s-bead" cx={bead.x} cy={bead.y} r={size === 'large' ? 3 : 1.6} />
      ))}
      {due && <path className="s-due-line" d={`M${ring.x} ${due.y}H${due.x}`} />}
      {due && <path className="s-due" d={`M${due.x} ${due.y - 9}v18`} />}
      {due && custody.until && (
        <text
          className="s-due-label"
          x={due.overdue ? due.x - 4 : due.x}
          y={due.y + 24}
          textAnchor={due.overdue ? 'end' : 'middle'}
        >
          {dayTime(custody.until)}
        </text>
      )}
      <circle className="s-holder" cx={ring.x} cy={ring.y} r={ring.radius} />
      <circle
        className="s-holder-left"
        cx={ring.x}
        cy={ring.y}
        r={ring.radius}
        strokeDasharray={`${circumference * ring.left} ${circumference}`}
        transform={`rotate(-90 ${ring.x} ${ring.y})`}
      />
      {size === 'large' && (
        <text className="s-initials" x={ring.x} y={ring.y + 4}>
          {initials}
        </text>
      )}
    </g>
  );
}
