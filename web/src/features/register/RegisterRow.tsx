import { numberWords } from '@polychron/core';
import { CaretRightIcon } from '@phosphor-icons/react';
import type { Document } from '@polychron/contract';
import { Tooltip } from 'antd';
import { lazy, Suspense } from 'react';
import { Link } from 'react-router-dom';
import { CustodySentence } from '../../parts/custody/CustodySentence.tsx';
import { landingOf } from '../../parts/checkIn/landing.ts';
import { useFileDrop } from '../../parts/drop/useFileDrop.ts';
import { ownAmong, valueInWords } from '../../parts/fields/ownFields.ts';
import { Strand } from '../../parts/strand/Strand.tsx';
import { useLibrary } from '../../parts/useLibrary.ts';
import { stateWords, VersionNumber } from '../../parts/versionNumber/VersionNumber.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import { date, day, fullTime } from '../../ui/when.ts';
import { type Column, ownName, widthOf } from './columns.ts';
import { useShownLayout } from './useLayout.ts';

// Read once a row is unrolled, or before, while nothing else is done.
const UnrolledVersions = lazy(async () => ({
  default: (await import('./UnrolledVersions.tsx')).UnrolledVersions,
}));

/** What is begun in a row and done beside the list. */
export type RowAct = 'fields' | 'publish' | 'giveBack' | 'lift' | 'ownProgram';

interface Props {
  document: Document;
  /** Its place in the table, the head being the first. */
  place: number;
  code: string;
  ticked: boolean;
  onTick: () => void;
  selected: boolean;
  /** Width of the list, in pixels. */
  room: number;
  unrolled: boolean;
  busy: boolean;
  onSelect: () => void;
  onUnroll: () => void;
  onCheckOut: () => void;
  /** Begins an act whose consequences are said beside the list. */
  onAct: (act: RowAct) => void;
  /** Takes files dropped on the row; null where that cannot be. */
  onFiles: ((files: File[]) => void) | null;
}

/** One document of the Register; pressing the row opens the panel beside it. */
export function RegisterRow({
  document,
  place,
  code,
  ticked,
  onTick,
  selected,
  room,
  unrolled,
  busy,
  onSelect,
  onUnroll,
  onCheckOut,
  onAct,
  onFiles,
}: Props) {
  const drop = useFileDrop(onFiles);
  const layout = useShownLayout();
  const address = `/${code}/documents/${document.id}`;
  return (
    <>
      <div
        id={`row-${document.id}`}
        role="row"
        aria-rowindex={place}
        className={`row ${selected ? 'row-selected' : ''} ${drop.over ? 'files-over' : ''}`}
        {...drop.handlers}
        aria-selected={selected}
        tabIndex={-1}
        onClick={(event) => {
          if (!(event.target as HTMLElement).closest('a,button,form,input,label')) onSelect();
        }}
      >
        <span role="cell" className="row-marks">
          <input
            type="checkbox"
            className="tick"
            checked={ticked}
            aria-label={`Tick ${document.number}`}
            onChange={onTick}
          />
          <button
            type="button"
            className={`unroll ${unrolled ? 'unrolled' : ''}`}
            aria-expanded={unrolled}
            aria-label={`${unrolled ? 'Roll up' : 'Unroll'} the ${document.versions} versions of ${document.number}`}
            onClick={onUnroll}
          >
            <CaretRightIcon size={13} weight="bold" />
          </button>
        </span>
        {layout.shown.map((column) => (
          <span key={column} role="cell" className={classes[column]}>
            <Cell
              column={column}
              document={document}
              address={address}
              width={widthOf(column, layout, room)}
              busy={busy}
              onCheckOut={onCheckOut}
              onAct={onAct}
            />
          </span>
        ))}
      </div>
      {unrolled && (
        <Suspense fallback={<Waiting lines={2} />}>
          <UnrolledVersions document={document} code={code} />
        </Suspense>
      )}
    </>
  );
}

const classes: Partial<Record<Column, string>> = {
  number: 'number doc-number',
  title: 'title-cell',
  strand: 'strand-cell',
  inForce: 'force-cell',
  latest: 'latest-cell',
  custody: 'custody-cell',
};

interface CellProps extends Pick<Props, 'document' | 'busy' | 'onCheckOut' | 'onAct'> {
  column: Column;
  address: string;
  width: number;
}

/** What a row says in one of its columns. */
function Cell({ column, document, address, width, busy, onCheckOut, onAct }: CellProps) {
  const { inForce, latest, fields, owner } = document;
  const reviewBy = inForce ? document.reviewBy : fields.reviewBy;
  switch (column) {
    case 'number':
      return document.limited ? (
        <Tooltip title="Kept to named people and groups">
          <span>
            {document.number} <small className="kept-mark">kept to some</small>
          </span>
        </Tooltip>
      ) : (
        document.number
      );
    case 'title':
      return <TitleCell document={document} address={address} onAct={onAct} />;
    case 'strand':
      return (
        <Strand
          document={document}
          versions={document.strand}
          size="small"
          width={width - 8}
          landing={landingOf(document)}
        />
      );
    case 'inForce':
      return inForce ? (
        <VersionNumber version={inForce} why={inForce.why} />
      ) : (
        <span className="muted" title="Nothing is in force">
          –
        </span>
      );
    case 'latest':
      return <LatestCell document={document} address={address} onAct={onAct} />;
    case 'custody':
      return (
        <CustodyCell document={document} width={width} busy={busy} onCheckOut={onCheckOut} onAct={onAct} />
      );
    case 'owner':
      return owner.name;
    case 'reviewBy':
      return reviewBy ? date(reviewBy) : null;
    case 'type':
      return fields.type;
    case 'subject':
      return fields.subject?.join(', ');
    case 'changed':
      return (
        <span title={`${fullTime(latest.at)}, ${latest.author.name}`}>
          {day(latest.at)} <span className="muted">{latest.author.name}</span>
        </span>
      );
    default:
      return <OwnCell name={ownName(column) ?? ''} document={document} />;
  }
}

/** A field of the library's own. */
function OwnCell({ name, document }: { name: string; document: Document }) {
  const library = useLibrary();
  const value = ownAmong(document.fields)[name];
  const kind = library?.rules.fields.find((field) => field.name === name)?.kind;
  return value === undefined ? null : valueInWords(value, kind);
}

function TitleCell({ document, address, onAct }: Pick<CellProps, 'document' | 'address' | 'onAct'>) {
  return (
    <>
      <Link to={address} className="title" dir="auto">
        {document.title}
      </Link>
      <span className="comment-line">
        <span className="comment" dir="auto">
          {document.latest.comment}
        </span>
        {document.acts.changeFields.allowed && (
          <button
            type="button"
            className="quiet row-fields"
            aria-label={`Change title and fields of ${document.number}`}
            onClick={() => onAct('fields')}
          >
            change
          </button>
        )}
      </span>
    </>
  );
}

function LatestCell({ document, address, onAct }: Pick<CellProps, 'document' | 'address' | 'onAct'>) {
  const { inForce, latest, acts, number } = document;
  return (
    <>
      <span>
        <VersionNumber version={latest} why={latest.why} />{' '}
        {latest.id !== inForce?.id && <small className="state-word">{stateWords(latest)}</small>}
      </span>
      {latest.id !== inForce?.id && (
        <span className="row-acts">
          {inForce && (
            <Tooltip title={`Compare ${latest.label} with ${numberWords(inForce.label)}, which is in force`}>
              <Link
                className="quiet"
                to={`${address}/compare/${encodeURIComponent(inForce.label)}/${encodeURIComponent(latest.label)}`}
                aria-label={`Compare ${latest.label} with ${numberWords(inForce.label)}`}
              >
                compare
              </Link>
            </Tooltip>
          )}
          {acts.publish.allowed && (
            <button
              type="button"
              className="quiet row-act"
              aria-label={`Publish ${latest.label} of ${number}`}
              onClick={() => onAct('publish')}
            >
              publish
            </button>
          )}
        </span>
      )}
    </>
  );
}

/** From which width of its column on, in pixels, two acts of custody stand beside each other. */
const besideCheckOut = 180;

/** Who holds the document or decides about it; else the way to check it out. */
function CustodyCell({
  document,
  width,
  busy,
  onCheckOut,
  onAct,
}: Pick<CellProps, 'document' | 'width' | 'busy' | 'onCheckOut' | 'onAct'>) {
  const { id, custody, approval, acts, number } = document;
  // Where there is no room beside it, the panel of the row has it.
  const inOwnProgram = width > besideCheckOut && <InOwnProgram number={number} onAct={onAct} />;
  if (custody)
    return (
      <>
        <CustodySentence custody={custody} />
        {custody.mine && inOwnProgram}
        {acts.giveBack.allowed && (
          <button
            type="button"
            className="quiet row-act"
            aria-label={`Give ${number} back`}
            onClick={() => onAct('giveBack')}
          >
            give back
          </button>
        )}
        {acts.lift.allowed && (
          <button
            type="button"
            className="quiet row-act"
            aria-label={`Lift the check-out of ${number}`}
            onClick={() => onAct('lift')}
          >
            lift
          </button>
        )}
      </>
    );
  if (approval)
    return (
      <span className="custody">
        in approval · waits for {approval.waitingFor.map(({ name }) => name).join(', ')}
      </span>
    );
  if (!acts.checkOut.allowed) return null;
  return (
    <>
      <button
        id={`check-out-${id}`}
        type="button"
        className="quiet check-out"
        disabled={busy}
        aria-label={`Check out ${number}`}
        onClick={onCheckOut}
      >
        Check out
      </button>
      {inOwnProgram}
    </>
  );
}

/** The way to the document's address for the program of its file, which checks it out by opening it. */
function InOwnProgram({ number, onAct }: { number: string } & Pick<Props, 'onAct'>) {
  return (
    <button
      type="button"
      className="quiet row-act"
      aria-label={`Work on ${number} in its own program`}
      onClick={() => onAct('ownProgram')}
    >
      own program
    </button>
  );
}
