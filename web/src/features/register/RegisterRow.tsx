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
import { UnrolledVersions } from './UnrolledVersions.tsx';

interface Props {
  document: Document;
  code: string;
  ticked: boolean;
  onTick: () => void;
  selected: boolean;
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
  code,
  ticked,
  onTick,
  selected,
  unrolled,
  busy,
  onSelect,
  onUnroll,
  onCheckOut,
  onChangeFields,
  onFiles,
}: Props) {
  const drop = useFileDrop(onFiles);
  const { inForce, latest } = document;
  const address = `/${code}/documents/${document.id}`;
  return (
    <>
      <div
        id={`row-${document.id}`}
        role="row"
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
        <span role="cell" className="number doc-number">
          {document.number}
        </span>
        <span role="cell" className="title-cell">
          <Link to={address} className="title">
            {document.title}
          </Link>
          <span className="comment-line">
            <span className="comment">{latest.comment}</span>
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
        </span>
        <span role="cell" className="strand-cell">
          <Strand
            document={document}
            versions={document.strand}
            size="small"
            width={244}
            landing={landingOf(document)}
          />
        </span>
        <span role="cell">
          {inForce ? (
            <VersionNumber version={inForce} why={inForce.why} />
          ) : (
            <span className="muted" title="Nothing is in force">
              –
            </span>
          )}
        </span>
        <span role="cell" className="latest-cell">
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
        </span>
        <span role="cell" className="custody-cell">
          <CustodyCell document={document} busy={busy} onCheckOut={onCheckOut} />
        </span>
      </div>
      {unrolled && <UnrolledVersions document={document} code={code} />}
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
