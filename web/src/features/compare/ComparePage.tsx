import { numberWords } from '@polychron/core';
import { type Document, routes } from '@polychron/contract';
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { Select } from 'antd';
import { Link, useNavigate, useParams } from 'react-router-dom';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { usePreferences } from '../../app/preferences.ts';
import { addressOf } from '../../ui/api.ts';
import { comparisonQuery, documentQuery, soFarQuery, versionsQuery } from '../../parts/queries.ts';
import { stateWords } from '../../parts/versionNumber/VersionNumber.tsx';
import { Counts } from '../../parts/comparing/Changes.tsx';
import { PrintHead } from '../../parts/PrintHead.tsx';
import { Compared, ViewChoice } from '../../parts/comparing/Compared.tsx';
import './compare.css';

/**
 * What changed between two versions: merged or side by side, listed and stepped through. `soFar` compares the
 * holder's working copy with its base.
 */
export function ComparePage({ soFar = false }: { soFar?: boolean }) {
  const { code = '', id = '', from: given = '', to = soFar ? 'working copy' : '' } = useParams();
  const navigate = useNavigate();
  const { data: document, error } = useQuery(documentQuery(id));
  const { data: list } = useInfiniteQuery(versionsQuery(id));
  const versionsCompared = useQuery({ ...comparisonQuery(id, given, to), enabled: !soFar });
  const copyCompared = useQuery({ ...soFarQuery(id), enabled: soFar });
  const { data: comparison, error: refusal } = soFar ? copyCompared : versionsCompared;
  const from = soFar ? (comparison?.from ?? '') : given;
  const { compareView, setCompareView } = usePreferences();
  const versions = list?.pages.flatMap((each) => each.items) ?? [];
  const count = comparison?.changes.length ?? 0;
  if (error) return <Nowhere error={error} />;
  const choices = versions.map((version) => ({
    value: version.label,
    label: `${numberWords(version.label)} · ${stateWords(version)} · ${version.comment}`,
  }));
  const go = (a: string, b: string): void =>
    void navigate(`/${code}/documents/${id}/compare/${encodeURIComponent(a)}/${encodeURIComponent(b)}`, {
      replace: true,
    });
  const picture = (part: string, isGone = false): string =>
    addressOf(routes.versionPicture, { params: { id, v: soFar || isGone ? from : to, part } });
  return (
    <main className="compare" data-title={titleOf({ from, to: soFar ? 'your working copy' : to, document })}>
      <header className="document-head">
        <span className="number doc-number">{document?.number}</span>
        <h1>
          <Link to={`/${code}/documents/${id}`}>
            <bdi>{document?.title}</bdi>
          </Link>
        </h1>
      </header>
      <div className="compare-bar">
        {soFar ? (
          <span>
            your working copy{from !== '' && ' against '}
            {from !== '' && <span className="number">{numberWords(from)}</span>}, not checked in
          </span>
        ) : (
          <>
            <span>from</span>
            <Select
              aria-label="Older version"
              value={from}
              options={choices}
              labelRender={({ value }) => <span className="number">{numberWords(String(value))}</span>}
              popupMatchSelectWidth={420}
              onChange={(value: string) => go(value, to)}
            />
            <span>to</span>
            <Select
              aria-label="Newer version"
              value={to}
              options={choices}
              labelRender={({ value }) => <span className="number">{numberWords(String(value))}</span>}
              popupMatchSelectWidth={420}
              onChange={(value: string) => go(from, value)}
            />
            <button type="button" className="quiet" onClick={() => go(to, from)}>
              swap
            </button>
          </>
        )}
        {comparison && <Counts counts={comparison.counts} total={count} />}
        <span className="top-gap" />
        <ViewChoice view={compareView} onChange={setCompareView} />
      </div>
      <PrintHead versions={versions.filter(({ label }) => label === from || label === to).reverse()} />
      <Compared
        comparison={comparison}
        error={refusal}
        sides={{ older: from, newer: to }}
        view={compareView}
        picture={picture}
      />
    </main>
  );
}

/** What the holder's working copy changes against its base. */
export function SoFarPage() {
  return <ComparePage soFar />;
}

/** The screen's name: what is compared, and of which document. */
const titleOf = (of: { from: string; to: string; document: Document | undefined }): string =>
  `Compare ${numberWords(of.from)} with ${numberWords(of.to)}, ${of.document?.number ?? ''} ${of.document?.title ?? ''}`;
