import { numberWords } from '@polychron/core';
import { type Document, routes } from '@polychron/contract';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router-dom';
import { usePreferences } from '../../app/preferences.ts';
import { RunActs } from '../../parts/approval/ApprovalActs.tsx';
import { DecidedRun } from '../../parts/approval/DecidedRun.tsx';
import { Deciding } from '../../parts/approval/Deciding.tsx';
import { Posts } from '../../parts/approval/Posts.tsx';
import { Counts } from '../../parts/comparing/Changes.tsx';
import { Compared, ViewChoice } from '../../parts/comparing/Compared.tsx';
import { comparisonQuery, documentQuery } from '../../parts/queries.ts';
import { ReadingOf } from '../../parts/reading/ReadingOf.tsx';
import { addressOf } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { Waiting } from '../../ui/Waiting.tsx';

/** One version to decide about: posts above, what it changes against what is in force, one's word below. */
export function DecisionPane({ id, onDone }: { id: string; onDone: () => void }) {
  const { data: document, error } = useQuery(documentQuery(id));
  if (error) return <Refusal error={error} />;
  if (!document) return <Waiting lines={8} />;
  const { approval, acts, latest, library } = document;
  return (
    <article className="decision" aria-label={`${document.number} ${document.title}`}>
      <header className="decision-head">
        <h2>
          <span className="number doc-number">{document.number}</span>{' '}
          <Link to={`/${library.code}/documents/${id}`}>
            <bdi>{document.title}</bdi>
          </Link>
        </h2>
        <div className="decision-posts">
          {approval ? <Posts approval={approval} /> : latest.approval && <DecidedRun run={latest.approval} />}
          <RunActs document={document} onDone={onDone} />
        </div>
      </header>
      <WhatChanges document={document} />
      {approval && acts.decide.allowed && (
        <footer className="decision-foot">
          <Deciding document={document} approval={approval} keys onDone={onDone} />
        </footer>
      )}
      {approval && !acts.decide.allowed && (
        <footer className="decision-foot">
          <p className="muted">{acts.decide.why}</p>
        </footer>
      )}
    </article>
  );
}

/** The changes against what is in force; the whole text where nothing is. */
function WhatChanges({ document }: { document: Document }) {
  const { inForce, latest } = document;
  if (inForce && inForce.id !== latest.id) return <Changes document={document} from={inForce.label} />;
  return (
    <>
      <p className="decision-what muted">
        Nothing is in force yet: this is the whole text of {numberWords(latest.label)}.
      </p>
      <div className="decision-text" tabIndex={0} role="region" aria-label="The whole text">
        <ReadingOf documentId={document.id} version={latest} />
      </div>
    </>
  );
}

function Changes({ document, from }: { document: Document; from: string }) {
  const { id, latest } = document;
  const { data: comparison, error } = useQuery(comparisonQuery(id, from, latest.label));
  const { compareView, setCompareView } = usePreferences();
  const picture = (part: string, isGone = false): string =>
    addressOf(routes.versionPicture, { params: { id, v: isGone ? from : latest.label, part } });
  return (
    <>
      <div className="decision-what">
        <span>
          <span className="number">{numberWords(latest.label)}</span> against{' '}
          <span className="number">{numberWords(from)}</span>, which is in force
        </span>
        {comparison && <Counts counts={comparison.counts} total={comparison.changes.length} />}
        <span className="top-gap" />
        <ViewChoice view={compareView} onChange={setCompareView} />
      </div>
      <Compared
        comparison={comparison}
        error={error}
        sides={{ older: from, newer: latest.label }}
        view={compareView}
        picture={picture}
      />
    </>
  );
}
