import { numberWords } from '@polychron/core';
import { type Document, routes } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useLocation, useNavigate } from 'react-router-dom';
import { call } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { refreshDocument } from '../queries.ts';
import { useUnfinished } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';
import { Deciding } from './Deciding.tsx';
import { Posts } from './Posts.tsx';
import { ReplaceApprover } from './ReplaceApprover.tsx';
import './approval.css';

/** The approval run of a document: who was asked, what they said, and what one can say oneself. */
export function ApprovalActs({ document, onDone }: { document: Document; onDone?: () => void }) {
  const { approval, acts } = document;
  if (!approval) return null;
  return (
    <section className="approval" aria-label="Approval">
      <Posts approval={approval} />
      {acts.decide.allowed && <Deciding document={document} approval={approval} onDone={onDone} />}
      <RunActs document={document} onDone={onDone} />
    </section>
  );
}

type Asking = 'callBack' | 'replace' | 'inPlace' | null;

/** What can be done with a run beside deciding where one is asked. */
export function RunActs({ document, onDone }: { document: Document; onDone?: (() => void) | undefined }) {
  const { approval, acts } = document;
  const { state, pathname } = useLocation() as { state: { asking?: Asking } | null; pathname: string };
  const navigate = useNavigate();
  const [asking, setAsking] = useState<Asking>(state?.asking ?? null);
  const leave = (): void => setAsking(null);
  if (!approval) return null;
  // What is decided about is on the screen, not what is in force.
  const page = `/${document.library.code}/documents/${document.id}`;
  const decideInPlace = (): void => {
    setAsking('inPlace');
    if (pathname.startsWith(page))
      void navigate(`${page}/versions/${encodeURIComponent(approval.version)}`, {
        state: { asking: 'inPlace' },
      });
  };
  switch (asking) {
    case 'callBack':
      return <CallBack document={document} onLeave={leave} />;
    case 'replace':
      return <ReplaceApprover document={document} approval={approval} onLeave={leave} />;
    case 'inPlace':
      return <Deciding document={document} approval={approval} inPlace onDone={onDone} onLeave={leave} />;
    case null:
      return (
        <span className="run-acts">
          {acts.callBack.allowed && (
            <button type="button" className="quiet" onClick={() => setAsking('callBack')}>
              Take back the submission
            </button>
          )}
          {acts.replaceApprover.allowed && (
            <button type="button" className="quiet" onClick={() => setAsking('replace')}>
              Ask somebody else
            </button>
          )}
          {acts.decideInPlace.allowed && !acts.decide.allowed && (
            <button type="button" className="quiet" onClick={decideInPlace}>
              Decide in their place
            </button>
          )}
        </span>
      );
  }
}

function CallBack({ document, onLeave }: { document: Document; onLeave: () => void }) {
  const client = useQueryClient();
  const { approval, inForce, toCome } = document;
  const form = useUnfinished(aboutDocument(document, 'callBack', 'Take back the submission'), {
    comment: '',
  });
  if (!approval) return null;
  const callBack = async (why: string): Promise<void> => {
    await call(routes.callBack, { params: { id: document.id }, body: { comment: why } });
    await refreshDocument(client, document.id);
  };
  return (
    <Consequences
      outcomes={[{ label: `Make ${approval.version} a draft again`, act: callBack }]}
      commentHint="Why? (optional)"
      form={form}
      onLeave={onLeave}
    >
      The decisions so far are kept in the record and no longer count;{' '}
      {approval.waitingFor.map(({ name }) => name).join(', ')}{' '}
      {approval.waitingFor.length === 1 ? 'is' : 'are'} no longer asked
      {toCome || !inForce ? '' : `, readers go on seeing ${numberWords(inForce.label)}`}.
    </Consequences>
  );
}
