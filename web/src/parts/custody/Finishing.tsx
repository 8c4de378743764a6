import { type Document, routes } from '@polychron/contract';
import type { Level } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { Button } from 'antd';
import { useState } from 'react';
import { call } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { dayTime, saves } from '../../ui/when.ts';
import { landingOf } from '../checkIn/landing.ts';
import { LandingLabel } from '../checkIn/LandingLabel.tsx';
import { outcomeWords } from '../checkIn/useCheckInFlow.ts';
import { refreshDocument } from '../queries.ts';
import { GivingBack } from './GivingBack.tsx';

interface Props {
  document: Document;
  custody: NonNullable<Document['custody']>;
}

/** Does what takes no more than the document, and says why it was refused. */
function useAct({ id }: Document): {
  act: (route: typeof routes.keepForLater | typeof routes.takeBackLock) => Promise<void>;
  error: unknown;
  forget: () => void;
} {
  const client = useQueryClient();
  const [error, setError] = useState<unknown>(null);
  const act = async (route: typeof routes.keepForLater | typeof routes.takeBackLock): Promise<void> => {
    try {
      await call<{ id: string }, unknown, unknown, unknown>(route, { params: { id } });
      await refreshDocument(client, id);
    } catch (refusal) {
      setError(refusal);
    }
  };
  return { act, error, forget: () => setError(null) };
}

/**
 * What is asked once a program has closed what it saved: which version it becomes, whether it is kept for
 * later, or goes. Nothing while nothing is asked.
 */
export function Finishing({ document, custody }: Props) {
  const [doing, setDoing] = useState<Level | 'giveBack' | null>(null);
  const { act, error, forget } = useAct(document);
  const { toFinish } = custody;
  const landing = landingOf(document);
  if (!custody.mine || toFinish === null || !landing) return null;
  const leave = (): void => setDoing(null);
  return (
    <section className="finishing" aria-label={`Finish ${document.number}`}>
      <p>
        <strong>What becomes of it?</strong> {saves(custody.saves)} in a program, the last{' '}
        {dayTime(custody.lastSavedAt ?? toFinish)}; closed there {dayTime(toFinish)}.
      </p>
      {doing === null && (
        <div className="acts">
          {landing.ways.map(({ level, label }) => (
            <Button key={level} onClick={() => setDoing(level)}>
              {outcomeWords(level, label, landing.submittedAs)}
            </Button>
          ))}
          <button type="button" className="quiet" onClick={() => void act(routes.keepForLater)}>
            Keep it for later
          </button>
          <button type="button" className="quiet" onClick={() => setDoing('giveBack')}>
            Discard {saves(custody.saves)}
          </button>
        </div>
      )}
      {doing === 'giveBack' && <GivingBack document={document} custody={custody} onLeave={leave} />}
      {(doing === 'minor' || doing === 'major') && (
        <LandingLabel landing={landing} level={doing} isChosen file={null} onLeave={leave} />
      )}
      <Refusal error={error} onLeave={forget} />
    </section>
  );
}

/** Says that a program has the document open; its lock can be taken back where the program is gone. */
export function OpenInProgram({ document, custody }: Props) {
  const { act, error, forget } = useAct(document);
  if (!custody.mine || custody.openUntil === null) return null;
  return (
    <>
      <p className="muted">
        Open in a program of yours, which keeps it to {dayTime(custody.openUntil)} unless it asks again.{' '}
        <button type="button" className="quiet" onClick={() => void act(routes.takeBackLock)}>
          It is closed there: take the lock back
        </button>
      </p>
      <Refusal error={error} onLeave={forget} />
    </>
  );
}
