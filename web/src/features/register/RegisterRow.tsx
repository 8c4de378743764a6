import { numberWords } from '../../parts/versionNumber/numberWords.ts';
import { CaretRightIcon } from '@phosphor-icons/react';
import type { Document } from '@polychron/contract';
import { Tooltip } from 'antd';
import { Link } from 'react-router-dom';
import { CustodySentence } from '../../parts/custody/CustodySentence.tsx';
import { landingOf } from '../../parts/checkIn/landing.ts';
import { useFileDrop } from '../../parts/drop/useFileDrop.ts';
import { Strand } from '../../parts/strand/Strand.tsx';
import { stateWords, VersionNumber } from '../../parts/versionNumber/VersionNumber.tsx';
import { date, day, fullTime } from '../../ui/when.ts';
import { type Column, widthOf } from './columns.ts';
import { useLayout } from './useLayout.ts';
import { UnrolledVersions } from './UnrolledVersions.tsx';

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
  onChangeFields: () => void;
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
  onChangeFields,
  onFiles,
}: Props) {
  const drop = useFileDrop(onFiles);
  const { layout } = useLayout();
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
              onChangeFields={onChangeFields}
            />
          </span>
        ))}
      </div>
      {unrolled && <UnrolledVersions document={document} code={code} />}
    </>
  );
}

const classes: Partial<Record<Column, string>> = {
  number: 'number doc-number',
  title: 'title-cell',
  strand: 'strand-cell',
  latest: 'latest-cell',
  custody: 'custody-cell',
};

interface CellProps extends Pick<Props, 'document' | 'busy' | 'onCheckOut' | 'onChangeFields'> {
  column: Column;
  address: string;
  width: number;
}

/** What a row says in one of its columns. */
function Cell({ column, document, address, width, busy, onCheckOut, onChangeFields }: CellProps) {
  const { inForce, latest, fields, owner } = document;
  switch (column) {
    case 'number':
      return document.number;
    case 'title':
      return <TitleCell document={document} address={address} onChangeFields={onChangeFields} />;
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
      return <LatestCell document={document} address={address} />;
    case 'custody':
      return <CustodyCell document={document} busy={busy} onCheckOut={onCheckOut} />;
    case 'owner':
      return owner.name;
    case 'reviewBy':
      return fields.reviewBy ? date(fields.reviewBy) : null;
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
  }
}

function TitleCell({
  document,
  address,
  onChangeFields,
}: Pick<CellProps, 'document' | 'address' | 'onChangeFields'>) {
  return (
    <>
      <Link to={address} className="title">
        {document.title}
      </Link>
      <span className="comment-line">
        <span className="comment">{document.latest.comment}</span>
        {document.acts.changeFields.allowed && (
          <button
            type="button"
            className="quiet row-fields"
            aria-label={`Change title and fields of ${document.number}`}
            onClick={onChangeFields}
          >
            change
          </button>
        )}
      </span>
    </>
  );
}

function LatestCell({ document: { inForce, latest }, address }: Pick<CellProps, 'document' | 'address'>) {
  return (
    <>
      <span>
        <VersionNumber version={latest} why={latest.why} />{' '}
        {latest.id !== inForce?.id && <small className="state-word">{stateWords(latest)}</small>}
      </span>
      {inForce && latest.id !== inForce.id && (
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
    </>
  );
}

/** Who holds the document or decides about it; else the way to check it out. */
function CustodyCell({ document, busy, onCheckOut }: Pick<Props, 'document' | 'busy' | 'onCheckOut'>) {
  const { custody, approval, acts, number } = document;
  if (custody) return <CustodySentence custody={custody} />;
  if (approval)
    return (
      <span className="custody">
        in approval · waits for {approval.waitingFor.map(({ name }) => name).join(', ')}
      </span>
    );
  if (!acts.checkOut.allowed) return null;
  return (
    <button
      type="button"
      className="quiet check-out"
      disabled={busy}
      aria-label={`Check out ${number}`}
      onClick={onCheckOut}
    >
      Check out
    </button>
  );
}
