import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { Tooltip } from 'antd';
import { useState } from 'react';
import { Link, useParams } from 'react-router-dom';
import { FindField } from '../../ui/FindField.tsx';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { documentQuery, visibilityQuery } from '../../parts/queries.ts';
import { stateWords, VersionNumber } from '../../parts/versionNumber/VersionNumber.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import './sight.css';

type Shown = Parameters<typeof stateWords>[0];

/** Members by versions of a document: who sees what, each cell with its reason. */
export function SightPage() {
  const { code = '', id = '' } = useParams();
  const { data: document } = useQuery(documentQuery(id));
  const [sought, setSought] = useState('');
  const pages = useInfiniteQuery(visibilityQuery(id, sought));
  if (pages.error) return <Nowhere error={pages.error} />;
  if (!pages.data || !document) return <Waiting screen />;
  const versions = pages.data.pages.flatMap((page) => page.versions);
  const [first] = pages.data.pages;
  const members = first?.members ?? [];
  const more = (first?.membersTotal ?? 0) - members.length;
  const cells = new Map(
    pages.data.pages.flatMap((page) =>
      page.members.flatMap((member) =>
        member.sees.map((cell) => [`${member.account} ${cell.version}`, cell] as const),
      ),
    ),
  );
  return (
    <main className="sight">
      <header className="document-head">
        <span className="number doc-number">{document.number}</span>
        <h1>
          Who sees which version of{' '}
          <Link to={`/${code}/documents/${id}`}>
            <bdi>{document.title}</bdi>
          </Link>
        </h1>
      </header>
      {(more > 0 || sought !== '') && (
        <div className="acts">
          <FindField what="a member" by="name or account" value={sought} onChange={setSought} />
          <span className="muted" role="status">
            {members.length === 0 && 'No member fits.'}
            {more > 0 && `${members.length} of ${members.length + more} members, by name.`}
          </span>
        </div>
      )}
      <div className="sight-frame">
        <table aria-label="Who sees what">
          <thead>
            <tr>
              <th scope="col">Member</th>
              {versions.map((version) => (
                <th key={version.id} scope="col">
                  <VersionNumber version={version as Shown & { label: string }} />
                  <span className="muted">{stateWords(version as Shown)}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {members.map((member) => (
              <tr key={member.account}>
                <th scope="row">
                  {member.name} <span className="muted">{member.roles.join(', ')}</span>
                </th>
                {versions.map((version) => {
                  const cell = cells.get(`${member.account} ${version.label}`);
                  return (
                    <td key={version.id}>
                      {cell && (
                        <Tooltip title={cell.why} trigger={['hover', 'focus']}>
                          <span
                            tabIndex={0}
                            role="img"
                            className={cell.sees ? 'sees' : 'sees-not'}
                            aria-label={`${cell.sees ? 'sees it' : 'does not see it'}: ${cell.why}`}
                          />
                        </Tooltip>
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="muted sight-key">
        <span className="sees" /> sees it <span className="sees-not" /> does not; point at a mark for the
        reason.
      </p>
      {pages.hasNextPage && (
        <button type="button" className="quiet more" onClick={() => void pages.fetchNextPage()}>
          Earlier versions
        </button>
      )}
    </main>
  );
}
