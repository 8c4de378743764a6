import { numberWords } from '@polychron/core';
import type { Document, Version } from '@polychron/contract';
import { useInfiniteQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router-dom';
import { Refusal } from '../../ui/Refusal.tsx';
import { RestoreConsequences } from '../../parts/restore/RestoreConsequences.tsx';
import { versionsQuery } from '../../parts/queries.ts';
import { stateWords, VersionNumber } from '../../parts/versionNumber/VersionNumber.tsx';
import { bytes, dayTime, fullTime } from '../../ui/when.ts';

/** All versions of a document, unrolled under its row. */
export function UnrolledVersions({ document, code }: { document: Document; code: string }) {
  const list = useInfiniteQuery(versionsQuery(document.id));
  const versions = list.data?.pages.flatMap((page) => page.items) ?? [];
  const [restoring, setRestoring] = useState<Version | null>(null);
  return (
    <div className="unrolled-versions" role="row">
      <div role="cell">
        <Refusal error={list.error} />
        <table aria-label={`Versions of ${document.number}`}>
          <tbody>
            {versions.map((version) => (
              <tr key={version.id}>
                <td>
                  <Link
                    to={`/${code}/documents/${document.id}/versions/${encodeURIComponent(version.label)}`}
                  >
                    <VersionNumber version={version} />
                  </Link>
                </td>
                <td className="muted">
                  {stateWords(version)}
                  {version.thinned && ', thinned'}
                  {version.sheltered && ', sheltered'}
                </td>
                <td>
                  <bdi>{version.comment}</bdi>
                  {version.origin.kind === 'restore' && version.origin.from && (
                    <span className="muted"> · content of {numberWords(version.origin.from)}</span>
                  )}
                </td>
                <td className="muted">{version.author.name}</td>
                <td className="muted" title={fullTime(version.at)}>
                  {dayTime(version.at)}
                </td>
                <td className="muted right">{bytes(version.size)}</td>
                <td className="right">
                  {version.id !== document.latest.id && !version.thinned && document.acts.restore.allowed && (
                    <button type="button" className="quiet" onClick={() => setRestoring(version)}>
                      Restore {numberWords(version.label)}
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {list.hasNextPage && (
          <button type="button" className="quiet more" onClick={() => void list.fetchNextPage()}>
            Earlier versions
          </button>
        )}
        {restoring && (
          <RestoreConsequences document={document} version={restoring} onLeave={() => setRestoring(null)} />
        )}
      </div>
    </div>
  );
}
