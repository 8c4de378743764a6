import { routes, type RulebookView } from '@polychron/contract';
import {
  admitRulebook,
  isRefusal,
  may,
  withValues,
  type Rulebook,
  rulebookDifference,
  type RulebookPart,
} from '@polychron/core';
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input } from 'antd';
import { useEffect, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { useNavigate } from 'react-router-dom';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { useLibrary } from '../../parts/useLibrary.ts';
import { ask, ProblemError } from '../../ui/api.ts';
import { documentsQuery, membersQuery, paceQuery, rulebookQuery, sessionQuery } from '../../parts/queries.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { date } from '../../ui/when.ts';
import { laidOver, proposalOf, useProposals } from './proposals.ts';
import { Revisions } from './Revisions.tsx';
import { changeWords } from './ruleWords.ts';
import { Sample } from './Sample.tsx';
import { RuleGroups, Sentences } from './Sentences.tsx';
import { useConsequences } from './useConsequences.ts';
import { WhatWouldChange } from './WhatWouldChange.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import { Word } from '../../ui/Word.tsx';
import { useMessages } from '../../ui/messages.tsx';
import './rulebook.css';
import { useSeveralOutcomes } from '../../ui/useSeveralOutcomes.tsx';

/** A library's rules as sentences, slid over its Register, with what changing them would do. */
export function RulebookPage() {
  const library = useLibrary();
  const { data: present, error } = useQuery({
    ...rulebookQuery(library?.id ?? ''),
    enabled: Boolean(library),
  });
  const { data: session } = useQuery(sessionQuery);
  if (library === null) return <Nowhere />;
  if (error) return <Nowhere error={error} />;
  if (!library || !present || !session) return <Waiting screen />;
  const mayChange = library.acts.changeRules.allowed;
  return (
    <Rules
      key={library.id}
      libraryId={library.id}
      code={library.code}
      name={library.name}
      present={present}
      mayChange={mayChange}
      owner={`${session.account} ${library.id}`}
    />
  );
}

type Present = RulebookView & { tag: string };
interface Props {
  libraryId: string;
  code: string;
  name: string;
  present: Present;
  mayChange: boolean;
  /** Whose choices of which library are kept. */
  owner: string;
}

function Rules({ libraryId, code, name, present, mayChange, owner }: Props) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const message = useMessages();
  // The rules the proposal is held against; somebody else may set others meanwhile.
  const [base, setBase] = useState(present);
  const { kept, keep } = useProposals();
  const [left] = useState(kept[owner]);
  const [rules, setRules] = useState<Rulebook>(() => laidOver(present.rulebook, left));
  const [reason, setReason] = useState(left?.reason ?? '');
  const [part, setPart] = useState<RulebookPart | null>(null);
  const [showRevisions, setShowRevisions] = useState(false);
  const [problem, setProblem] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const { data: pace } = useQuery({ ...paceQuery(libraryId), retry: false });
  const { data: members } = useQuery(membersQuery(libraryId));
  const list = useInfiniteQuery(documentsQuery(libraryId, {}));
  const documents = list.data?.pages.flatMap((page) => page.items) ?? [];
  const changes = rulebookDifference(base.rulebook, rules);
  const admitted = admitRulebook(rules);
  const refused = isRefusal(admitted) ? admitted : null;
  const rehearsed = useConsequences(libraryId, mayChange && changes.length > 0 && !refused ? rules : null, {
    documents: documents.map(({ id }) => id).join(','),
    limit: 1000,
  });
  useEffect(
    () => keep(owner, mayChange ? proposalOf(base.rulebook, rules, reason) : null),
    [keep, owner, mayChange, base, rules, reason],
  );
  useHotkeys('escape', () => void navigate(`/${code}`));

  const several = useSeveralOutcomes();
  const apply = async (): Promise<void> => {
    if (changes.length === 0 || refused) return;
    setBusy(true);
    setProblem(null);
    try {
      const { answer } = await ask(routes.changeRulebook, {
        params: { id: libraryId },
        body: { ...rules, reason },
        ifMatch: base.tag,
      });
      keep(owner, null);
      await client.invalidateQueries();
      void message.success(
        `Revision ${answer.revision} is in force.${answer.job ? ' Thinning goes on by itself; what goes is on the recovery shelf.' : ''}`,
        6,
      );
      void navigate(`/${code}`);
    } catch (refusal) {
      setProblem(refusal);
      setBusy(false);
    }
  };
  // The other's rules become the base; what I changed is laid over them.
  const takeTheirs = async (): Promise<void> => {
    const { answer, tag } = await ask(routes.readRulebook, { params: { id: libraryId } });
    setRules(withValues(answer.rulebook, changes));
    setBase({ ...answer, tag });
    setProblem(null);
  };
  const stale =
    problem instanceof ProblemError && problem.problem.status === 412
      ? (problem.problem as unknown as StaleFacts)
      : null;
  return (
    <main className="rulebook">
      <div className="rulebook-sheet">
        <div className="rulebook-scroll">
          <header>
            <h1>
              <Word of="Rulebook" /> of {name}
            </h1>
            <p className="muted">
              Revision {base.revision}, in force since {date(base.at)} ·{' '}
              {changes.length === 0
                ? 'nothing changed'
                : `${changes.length} ${changes.length === 1 ? 'rule' : 'rules'} changed, not yet applied; kept on this device until you do`}{' '}
              ·{' '}
              <button
                type="button"
                className="quiet"
                aria-expanded={showRevisions}
                onClick={() => setShowRevisions(!showRevisions)}
              >
                {showRevisions ? 'Close the revisions' : 'Revisions'}
              </button>
            </p>
            <RuleGroups />
          </header>
          {showRevisions && (
            <Revisions
              libraryId={libraryId}
              present={base.revision}
              onLook={(revision) => {
                setRules(revision.rulebook);
                setReason(`Back to revision ${revision.revision}`);
                setShowRevisions(false);
              }}
            />
          )}
          <Sample rules={rules} part={part} />
          <fieldset disabled={!mayChange} className="plain">
            <Sentences
              rules={rules}
              before={base.rulebook}
              change={(changed) => setRules((now) => ({ ...now, ...changed }))}
              pace={pace}
              code={code}
              part={part}
              onPart={setPart}
              people={(members?.members ?? []).flatMap(({ account, name: person, roles }) =>
                account && may(new Set(roles), 'decide') ? [[account, person] as const] : [],
              )}
            />
          </fieldset>
        </div>
        {mayChange ? (
          <form
            className="rulebook-apply"
            onSubmit={(event) => event.preventDefault()}
            onKeyDown={several.onKeyDown}
          >
            {several.hint}
            {refused && (
              <div className="refusal" role="alert">
                {refused.reason}
              </div>
            )}
            {stale ? (
              <Stale
                facts={stale}
                mine={changes.map(changeWords)}
                theirs={rulebookDifference(base.rulebook, stale.rulebook).map(changeWords)}
                onTake={() => void takeTheirs()}
              />
            ) : (
              <Refusal error={problem} />
            )}
            <div className="acts">
              <Input
                value={reason}
                maxLength={4000}
                variant="underlined"
                placeholder="Why do the rules change?"
                aria-label="Reason"
                onChange={(event) => setReason(event.target.value)}
              />
              <Button
                onClick={() => {
                  setRules(base.rulebook);
                  setReason('');
                  setProblem(null);
                }}
                disabled={changes.length === 0}
              >
                Undo my choices
              </Button>
              <Button
                type="primary"
                onClick={() => void apply()}
                loading={busy}
                disabled={changes.length === 0 || refused !== null || rehearsed.progress !== null}
                title={rehearsed.progress === null ? undefined : 'What it would do is still being computed.'}
              >
                {changes.length === 0
                  ? 'Apply'
                  : `Apply ${changes.length} ${changes.length === 1 ? 'rule' : 'rules'}`}
              </Button>
            </div>
          </form>
        ) : (
          <p className="rulebook-apply muted">
            Rules are set by controllers of the library; here they can be read.
          </p>
        )}
      </div>
      {mayChange && (
        <WhatWouldChange
          libraryId={libraryId}
          code={code}
          rules={rules}
          rehearsed={rehearsed}
          changed={changes.length > 0 && !refused}
          documents={documents}
          more={list.hasNextPage}
          onMore={() => void list.fetchNextPage()}
        />
      )}
    </main>
  );
}

interface StaleFacts {
  revision: number;
  by: string;
  at: string;
  reason: string;
  rulebook: Rulebook;
  detail: string;
}

/** Somebody else has set rules meanwhile: theirs and mine, side by side. */
function Stale({
  facts,
  mine,
  theirs,
  onTake,
}: {
  facts: StaleFacts;
  mine: string[];
  theirs: string[];
  onTake: () => void;
}) {
  return (
    <div className="refusal stale" role="alert">
      <p>
        {facts.by} has set revision {facts.revision} meanwhile: “<bdi>{facts.reason}</bdi>”. Nothing of yours
        was applied, nothing is lost.
      </p>
      <div className="stale-sides">
        <div>
          <strong>Theirs</strong>
          {theirs.map((line) => (
            <span key={line}>{line}</span>
          ))}
        </div>
        <div>
          <strong>Yours</strong>
          {mine.map((line) => (
            <span key={line}>{line}</span>
          ))}
        </div>
      </div>
      <button type="button" className="quiet" onClick={onTake}>
        Keep theirs, add mine
      </button>
    </div>
  );
}
