import { type Document, routes } from '@polychron/contract';
import { numberWords } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router-dom';
import { call, PageError } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { useMessages } from '../../ui/messages.tsx';
import { useUnfinished } from '../../ui/unfinished.ts';
import { fullTime, moment } from '../../ui/when.ts';
import { refreshDocument } from '../queries.ts';
import { aboutDocument } from '../unfinished/about.ts';
import './standing.css';

/** A document that was registered by mistake is voided; it says so before what that means. */
export function VoidActs({ document }: { document: Document }) {
  const [asking, setAsking] = useState(false);
  if (!document.acts.void.allowed) return null;
  if (asking) return <Voiding document={document} onLeave={() => setAsking(false)} />;
  return (
    <p className="acts">
      <button type="button" className="quiet" onClick={() => setAsking(true)}>
        Registered by mistake: void {document.number}
      </button>
    </p>
  );
}

function Voiding({ document, onLeave }: { document: Document; onLeave: () => void }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const message = useMessages();
  const { id, number, library, inForce, seenBy } = document;
  const form = useUnfinished(aboutDocument(document, 'void', `Void ${number}`), { comment: '' });
  const go = async (reason: string): Promise<void> => {
    if (reason.trim() === '') throw new PageError('Say in a sentence why: it stays with the document.');
    await call(routes.void, { params: { id }, body: { reason } });
    void message.success(`${number} is void. Its number is not used again.`);
    // Whoever took their own back sees it no more.
    void navigate(`/${library.code}`);
    await refreshDocument(client, id);
  };
  return (
    <Consequences
      outcomes={[{ label: `Void ${number}`, act: go }]}
      commentHint="Why? It stays with the document."
      form={form}
      onLeave={onLeave}
    >
      {inForce &&
        `${numberWords(inForce.label)} is no longer in force for anybody${seenBy ? `: ${seenBy.inForce} members lose it` : ''}. `}
      {number} leaves every list, count and search, and the number is never used again. Its versions are kept;
      auditors and controllers still see them, and a controller can let it stand again.
    </Consequences>
  );
}

/** Says that a document is void, and lets it stand again. */
export function VoidedHere({ document }: { document: Document }) {
  const [asking, setAsking] = useState(false);
  const { number, voided, acts } = document;
  if (!voided) return null;
  return (
    <section className="voided-here" aria-label="Void">
      <p>
        <strong>Void.</strong> Voided by {voided.by.name}{' '}
        <span title={fullTime(voided.at)}>{moment(voided.at)}</span>: “<bdi>{voided.reason}</bdi>”. Lists
        leave it out, and nothing can be done with it.{' '}
        {acts.unvoid.allowed && !asking && (
          <button type="button" className="quiet" onClick={() => setAsking(true)}>
            Let {number} stand again
          </button>
        )}
      </p>
      {asking && <Lifting document={document} onLeave={() => setAsking(false)} />}
    </section>
  );
}

function Lifting({ document, onLeave }: { document: Document; onLeave: () => void }) {
  const client = useQueryClient();
  const { id, number, inForce } = document;
  const form = useUnfinished(aboutDocument(document, 'unvoid', `Let ${number} stand again`), { comment: '' });
  const go = async (reason: string): Promise<void> => {
    if (reason.trim() === '') throw new PageError('Say in a sentence why: it is kept in the audit trail.');
    await call(routes.unvoid, { params: { id }, body: { reason } });
    await refreshDocument(client, id);
  };
  return (
    <Consequences
      outcomes={[{ label: `Let ${number} stand again`, act: go, primary: true }]}
      commentHint="Why? (kept in the audit trail)"
      form={form}
      onLeave={onLeave}
    >
      {number} is in lists and searches again, as it was
      {inForce ? `; readers get ${numberWords(inForce.label)} again` : ''}.
    </Consequences>
  );
}
