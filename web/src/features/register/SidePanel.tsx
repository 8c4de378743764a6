import { numberWords } from '@polychron/core';
import { XIcon } from '@phosphor-icons/react';
import type { Document, Library } from '@polychron/contract';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router-dom';
import { ApprovalActs } from '../../parts/approval/ApprovalActs.tsx';
import { CustodyActs } from '../../parts/custody/CustodyActs.tsx';
import { landingOf } from '../../parts/checkIn/landing.ts';
import { ChangeFields } from '../../parts/fields/ChangeFields.tsx';
import { documentQuery } from '../../parts/queries.ts';
import { StandingActs } from '../../parts/standing/StandingActs.tsx';
import { Strand } from '../../parts/strand/Strand.tsx';
import { PublishConsequences } from '../../parts/approval/Publishing.tsx';
import type { RowAct } from './RegisterRow.tsx';
import { Word } from '../../ui/Word.tsx';
import { date } from '../../ui/when.ts';

/** The selected document beside the Register: its Strand, custody, and the frequent acts. */
export function SidePanel({
  listed,
  code,
  onCheckOut,
  busy,
  library,
  doing,
  onDoing,
  onLeave,
}: {
  listed: Document;
  code: string;
  onCheckOut: () => void;
  busy: boolean;
  library: Library;
  /** What is being done with it, where its row was asked for that. */
  doing: RowAct | null;
  onDoing: (act: RowAct | null) => void;
  onLeave: () => void;
}) {
  // What the list knows is shown at once and completed as soon as the document itself is read.
  const { data: document = listed } = useQuery({ ...documentQuery(listed.id), placeholderData: listed });
  const address = `/${code}/documents/${document.id}`;
  const navigate = useNavigate();
  const { inForce, latest, fields } = document;
  const reviewBy = inForce ? document.reviewBy : fields.reviewBy;
  return (
    <aside className="panel" aria-label={document.number}>
      <div className="panel-head">
        <span className="number doc-number">{document.number}</span>
        <button type="button" className="icon" aria-label="Close the panel" onClick={onLeave}>
          <XIcon size={16} />
        </button>
      </div>
      {doing === 'fields' ? (
        <ChangeFields document={document} library={library} onLeave={() => onDoing(null)} />
      ) : (
        <h2>
          <Link to={address}>
            <bdi>{document.title}</bdi>
          </Link>
        </h2>
      )}
      <Strand
        document={document}
        versions={document.strand}
        size="large"
        landing={landingOf(document)}
        onChoose={(label) => void navigate(`${address}/versions/${encodeURIComponent(label)}`)}
      />
      {doing === 'publish' && document.acts.publish.allowed && (
        <PublishConsequences document={document} onLeave={() => onDoing(null)} onDone={() => onDoing(null)} />
      )}
      {document.approval && (
        <>
          <h3>Approval</h3>
          <ApprovalActs document={document} />
        </>
      )}
      <h3>
        <Word of="Custody" />
      </h3>
      <CustodyActs
        document={document}
        onCheckOut={onCheckOut}
        busy={busy}
        asked={doing === 'fields' || doing === 'publish' ? null : doing}
      />
      <h3>Why you see {latest.label}</h3>
      <p>{latest.why}</p>
      <h3>Next</h3>
      <p>
        {reviewBy ? <>Review due {date(reviewBy)} · </> : null}owner {document.owner.name}
      </p>
      {inForce && <StandingActs key={inForce.id} document={document} version={inForce} />}
      <div className="acts">
        {document.acts.changeFields.allowed && doing !== 'fields' && (
          <button type="button" className="quiet" onClick={() => onDoing('fields')}>
            Change fields
          </button>
        )}
        <Link to={address}>Open the document</Link>
        {inForce && inForce.id !== latest.id && (
          <Link
            to={`${address}/compare/${encodeURIComponent(inForce.label)}/${encodeURIComponent(latest.label)}`}
          >
            Compare {latest.label} with {numberWords(inForce.label)}
          </Link>
        )}
      </div>
    </aside>
  );
}
