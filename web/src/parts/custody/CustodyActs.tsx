import { numberWords } from '@polychron/core';
import { type Custody, routes, type Document } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Button, Input, Segmented } from 'antd';
import { useState } from 'react';
import { useLibrary } from '../useLibrary.ts';
import { call } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { MomentField } from '../../ui/dates.tsx';
import type { CustodyAsked } from './asked.ts';
import { CustodySentence } from './CustodySentence.tsx';
import { HeldByMe } from './HeldByMe.tsx';
import { OwnProgram } from './OwnProgram.tsx';
import { refreshDocument } from '../queries.ts';
import { useUnfinished } from '../../ui/unfinished.ts';
import { aboutDocument } from '../unfinished/about.ts';
import { baseOf, useCheckOut, whyNotLatest } from './useCheckOut.ts';
import { day, dayTime, saves } from '../../ui/when.ts';
import { Word } from '../../ui/Word.tsx';
import { useMessages } from '../../ui/messages.tsx';
import './custody.css';

/**
 * Custody of a document and what can be done about it: checking it out, and for its holder everything else.
 */
export function CustodyActs({
  document,
  onCheckOut,
  busy,
  asked = null,
  finishing = true,
  headed = false,
}: {
  document: Document;
  onCheckOut: () => void;
  busy: boolean;
  asked?: CustodyAsked;
  /** Whether it asks what becomes of what a program saved; not where that stands beside it. */
  finishing?: boolean;
  /** Whether checking out stands in the head of the page already. */
  headed?: boolean;
}) {
  const { custody, acts, toCome, setAside } = document;
  const library = useLibrary();
  const aside = setAside.map(({ holder, base, at }) => (
    <p key={at} className="muted">
      {holder.name} has a copy of <span className="number">{base}</span> <Word of="Set aside">set aside</Word>{' '}
      since {day(at)}, not brought in yet.
    </p>
  ));
  if (!custody) {
    return (
      <div className="custody-acts">
        <p>
          Nobody holds it.
          {acts.checkOut.allowed && library?.rules.custody === 'required' && (
            <span className="muted"> You can read it; to change it, check it out.</span>
          )}
        </p>
        {acts.checkOut.allowed ? (
          <CheckOut document={document} busy={busy} onCheckOut={headed ? null : onCheckOut} />
        ) : (
          <p className="muted">{acts.checkOut.why}</p>
        )}
        {acts.checkOut.allowed && (
          <OwnProgram key={asked} document={document} asked={asked === 'ownProgram'} />
        )}
        {aside}
      </div>
    );
  }
  const instead = whyNotLatest(document, custody.base);
  return (
    <div className="custody-acts">
      <p>
        <CustodySentence custody={custody} />
      </p>
      {instead && (
        <p>
          From <span className="number">{custody.base}</span>;{' '}
          <span className="number">{document.latest.label}</span>, the latest, was withdrawn.{' '}
          <span dir="auto">{instead}</span>
        </p>
      )}
      {custody.reason && (
        <p className="muted">
          “<bdi>{custody.reason}</bdi>”
        </p>
      )}
      {custody.mine && toCome ? (
        <HeldByMe document={document} custody={custody} asked={asked} finishing={finishing} />
      ) : (
        custody.saves > 0 &&
        custody.lastSavedAt && (
          <p className="muted">
            {saves(custody.saves)}, the last {dayTime(custody.lastSavedAt)}
          </p>
        )
      )}
      {aside}
      {acts.lift.allowed && <Lift document={document} custody={custody} asked={asked === 'lift'} />}
    </div>
  );
}

/** Checking out in one press; a reason and an end of one's own when wanted. */
function CheckOut({
  document,
  busy,
  onCheckOut,
}: {
  document: Document;
  busy: boolean;
  /** Null where its button stands elsewhere. */
  onCheckOut: (() => void) | null;
}) {
  const { checkOut, busy: asking } = useCheckOut();
  const [wishing, setWishing] = useState(false);
  const form = useUnfinished<{ reason: string; until: string | null; base: 'inForce' | 'latest' }>(
    aboutDocument(document, 'checkOut', 'Check out'),
    { reason: '', until: null, base: 'inForce' },
  );
  const { reason, until, base } = form.value;
  const { latest, inForce } = document;
  const proposed = baseOf(document);
  const isWithdrawn = proposed.id !== latest.id;
  if (!wishing) {
    return (
      <>
        {isWithdrawn && (
          <p>
            {latest.label}, the latest, was withdrawn. {latest.withdrawn?.why} You work on {proposed.label},
            which is in force, unless you choose otherwise.
          </p>
        )}
        <div className="acts">
          {onCheckOut && (
            <Button loading={busy} onClick={onCheckOut}>
              Check out {numberWords(proposed.label)}
            </Button>
          )}
          <button type="button" className="quiet" onClick={() => setWishing(true)}>
            {isWithdrawn ? 'Choose the base, a reason or end date' : 'Add a reason or end date'}
          </button>
        </div>
      </>
    );
  }
  return (
    <form
      className="small-form"
      aria-label={`Check out ${document.number}`}
      onSubmit={(event) => {
        event.preventDefault();
        void checkOut(document, { reason, until, base }).then((isOut) => {
          if (isOut) form.done();
        });
      }}
    >
      {isWithdrawn && (
        <Segmented
          aria-label="Base"
          value={base}
          onChange={(chosen: 'inForce' | 'latest') => form.change({ base: chosen })}
          options={[
            { value: 'inForce', label: `${numberWords(inForce?.label ?? '')}, in force` },
            { value: 'latest', label: `${latest.label}, withdrawn` },
          ]}
        />
      )}
      <Input
        dir="auto"
        aria-label="Reason"
        placeholder="What for? Others read it."
        value={reason}
        maxLength={4000}
        onChange={(event) => form.change({ reason: event.target.value })}
      />
      <label className="moment">
        until{' '}
        <MomentField
          name="Until"
          value={until}
          empty="as the Rulebook says"
          onChange={(chosen) => form.change({ until: chosen })}
        />
      </label>
      <div className="acts">
        <Button htmlType="submit" loading={asking !== null}>
          Check out {base === 'latest' ? latest.label : proposed.label}
        </Button>
        <button type="button" className="quiet" onClick={() => setWishing(false)}>
          Cancel
        </button>
      </div>
    </form>
  );
}

/** A controller ends somebody else's check-out: what they saved is set aside, nothing is lost. */
function Lift({ document, custody, asked }: { document: Document; custody: Custody; asked: boolean }) {
  const client = useQueryClient();
  const message = useMessages();
  const [asking, setAsking] = useState(asked);
  const form = useUnfinished(aboutDocument(document, 'lift', 'Lift the check-out'), { comment: '' });
  const lift = async (reason: string): Promise<void> => {
    await call(routes.lift, { params: { id: document.id }, body: { reason } });
    void message.success(`${document.number} is free again. ${custody.holder.name} is told.`);
    await refreshDocument(client, document.id);
  };
  if (!asking)
    return (
      <div className="acts">
        <button type="button" className="quiet" onClick={() => setAsking(true)}>
          Lift the check-out
        </button>
      </div>
    );
  return (
    <Consequences
      outcomes={[{ label: `Lift ${custody.holder.name}'s check-out`, act: lift }]}
      commentHint="Why? Its holder reads it."
      form={form}
      onLeave={() => setAsking(false)}
    >
      {document.number} is free for others at {document.latest.label}.{' '}
      {custody.saves > 0
        ? `The working copy with ${saves(custody.saves)} moves to the Desk of ${custody.holder.name}, who can bring it in later.`
        : `Nothing was saved, so nothing is set aside.`}{' '}
      {custody.holder.name} is told.
    </Consequences>
  );
}
