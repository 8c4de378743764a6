import { numberWords } from '@polychron/core';
import type { Document, Version } from '@polychron/contract';
import { Tooltip } from 'antd';
import { Fragment, useState } from 'react';
import { Link } from 'react-router-dom';
import { useLibrary } from '../../parts/useLibrary.ts';
import { ApprovalActs } from '../../parts/approval/ApprovalActs.tsx';
import { CustodyActs } from '../../parts/custody/CustodyActs.tsx';
import { DistributionActs } from '../../parts/distribution/DistributionActs.tsx';
import { LimitActs } from '../../parts/distribution/LimitActs.tsx';
import { CustodyHistory } from '../../parts/custody/CustodyHistory.tsx';
import { ChangeFields } from '../../parts/fields/ChangeFields.tsx';
import { ownLines } from '../../parts/fields/ownFields.ts';
import { KeepingActs } from '../../parts/keeping/KeepingActs.tsx';
import { ReviewActs } from '../../parts/review/ReviewActs.tsx';
import { TemplateActs } from '../../parts/templates/TemplateActs.tsx';
import { VoidActs } from '../../parts/standing/Voiding.tsx';
import { StandingActs } from '../../parts/standing/StandingActs.tsx';
import { useLooking, useOnlyLooks } from '../../ui/looking.ts';
import { stateWords, VersionNumber } from '../../parts/versionNumber/VersionNumber.tsx';
import { Word } from '../../ui/Word.tsx';
import { bytes, date, day, fullTime } from '../../ui/when.ts';

interface Props {
  document: Document;
  versions: Version[];
  shown: Version | undefined;
  address: string;
  busy: boolean;
  onCheckOut: () => void;
  onCompare: (from: string, to: string) => void;
  /** Whether the fields are being changed. */
  changing: boolean;
  onChanging: (on: boolean) => void;
  onRecorded: (label: string) => void;
}

/** Custody, sight, versions and fields, beside the text. */
export function Facts(props: Props) {
  const { document, versions, shown, address, busy, onCheckOut, onCompare } = props;
  const { changing, onChanging, onRecorded } = props;
  const { inForce, latest, seenBy } = document;
  const library = useLibrary();
  const onlyLooks = useOnlyLooks();
  const isPast = useLooking(({ at }) => at !== null);
  const seesAll = !onlyLooks && library?.acts.seeAs.allowed;
  return (
    <aside className="facts" aria-label="Facts">
      {document.approval && (
        <>
          <h2>Approval</h2>
          <ApprovalActs document={document} />
        </>
      )}
      <h2>
        <Word of="Custody" />
      </h2>
      <CustodyActs document={document} onCheckOut={onCheckOut} busy={busy} headed />
      {!isPast && <CustodyHistory documentId={document.id} />}
      <h2>
        <Word of="Sight">Who sees what</Word>
      </h2>
      <p>
        {seenBy && inForce && (
          <>
            {seenBy.inForce} members see <VersionNumber version={inForce} why={inForce.why} />.{' '}
          </>
        )}
        {seenBy && latest.id !== inForce?.id && (
          <>
            {seenBy.latest} see <VersionNumber version={latest} why={latest.why} />.{' '}
          </>
        )}
        {shown?.why}
      </p>
      {seesAll && (
        <p>
          <Link to={`${address}/sight`}>Who sees what, member by member</Link>
        </p>
      )}
      {!isPast && <LimitActs document={document} />}
      {!isPast && <DistributionActs document={document} />}
      <ReviewActs document={document} heading />
      {shown && <StandingActs key={`standing ${shown.id}`} document={document} version={shown} />}
      {shown && <KeepingActs key={shown.id} document={document} version={shown} />}
      <h2>
        Versions <small>{document.versions}</small>
      </h2>
      <VersionTable versions={versions} shown={shown} address={address} onCompare={onCompare} />
      <h2>
        Fields{' '}
        {document.acts.changeFields.allowed && !changing && (
          <button type="button" className="quiet" onClick={() => onChanging(true)}>
            change
          </button>
        )}
      </h2>
      {changing && library && (
        <ChangeFields
          document={document}
          library={library}
          onLeave={() => onChanging(false)}
          onDone={({ label }) => onRecorded(label)}
        />
      )}
      <TemplateActs document={document} />
      <dl className="fields">
        {!changing && <FieldLines document={document} shown={shown} />}
        <dt>File</dt>
        <dd>
          {shown?.fileName} · {shown && bytes(shown.size)}
        </dd>
        <dt>SHA-256</dt>
        <dd className="number hash">{shown?.sha256}</dd>
      </dl>
      <VoidActs document={document} />
    </aside>
  );
}

/** The fields of the version that is read, and the people of the document. */
function FieldLines({ document, shown }: Pick<Props, 'document' | 'shown'>) {
  const library = useLibrary();
  const fields = shown?.fields ?? document.fields;
  const { type, subject, reviewBy, title } = fields;
  const { owner, coAuthors, approvers } = document;
  const names = (people: readonly { name: string }[]): string => people.map(({ name }) => name).join(', ');
  const lines = [
    ['Title', title === document.title ? '' : title],
    ['Type', type],
    ['Subject', subject?.join(', ')],
    ['Review date', reviewBy && date(reviewBy)],
    ...ownLines(library, document, fields),
    ['Owner', owner.name],
    ['Co-authors', names(coAuthors)],
    ['Approvers', library?.rules.approval && names(approvers)],
  ] as const;
  return lines.map(
    ([name, value]) =>
      value && (
        <Fragment key={name}>
          <dt>{name}</dt>
          <dd>{value}</dd>
        </Fragment>
      ),
  );
}

/** Versions shown before one asks for earlier ones. */
const rowsAtOnce = 60;

/** Version table: the same as the Strand says, in words. Two ticked versions are compared. */
function VersionTable({
  versions,
  shown,
  address,
  onCompare,
}: Pick<Props, 'versions' | 'shown' | 'address' | 'onCompare'>) {
  const [rows, setRows] = useState(rowsAtOnce);
  const [ticked, setTicked] = useState<string[]>([]);
  const largest = Math.max(1, ...versions.map((version) => version.size));
  const tick = (label: string): void => {
    const next = ticked.includes(label) ? ticked.filter((each) => each !== label) : [...ticked, label];
    if (next.length < 2) {
      setTicked(next);
      return;
    }
    const [older, newer] = [...versions]
      .reverse()
      .filter((version) => next.includes(version.label))
      .map((version) => version.label);
    setTicked([]);
    if (older && newer) onCompare(older, newer);
  };
  // The one that is read is always among them.
  const last = Math.max(rows, versions.findIndex(({ id }) => id === shown?.id) + 1);
  return (
    <>
      <table className="version-table" aria-label="Versions">
        <tbody>
          {versions.slice(0, last).map((version, index) => (
            <tr
              key={version.id}
              className={version.id === shown?.id ? 'shown' : ''}
              aria-current={version.id === shown?.id || undefined}
            >
              <td>
                <Link
                  to={`${address}/versions/${encodeURIComponent(version.label)}`}
                  replace
                  aria-label={`Read ${numberWords(version.label)}`}
                >
                  <VersionNumber version={version} />
                </Link>
              </td>
              <td>
                <bdi>{version.comment}</bdi>{' '}
                <span className="muted">
                  · {version.author.name} · <span title={fullTime(version.at)}>{day(version.at)}</span> ·{' '}
                  {stateWords(version)}
                  {version.thinned && ', thinned'}
                  {version.sheltered && ', sheltered'}
                  {version.origin.kind === 'template' && <> · begun with a template</>}
                  {version.origin.kind === 'restore' && version.origin.from && (
                    <> · content of {numberWords(version.origin.from)}</>
                  )}
                </span>
                <Drop version={version} before={versions[index + 1]} />
              </td>
              <td>
                <Size version={version} before={versions[index + 1]} largest={largest} />
              </td>
              <td>
                {!version.thinned && (
                  <button
                    type="button"
                    className="quiet"
                    aria-pressed={ticked.includes(version.label)}
                    aria-label={`Compare ${numberWords(version.label)} with another`}
                    onClick={() => tick(version.label)}
                  >
                    {compareWord(ticked, version.label)}
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {last < versions.length && (
        <button type="button" className="quiet more" onClick={() => setRows(last + rowsAtOnce)}>
          Earlier versions
        </button>
      )}
    </>
  );
}

/** What the press does: takes a version back, compares it with the ticked one, or ticks it. */
function compareWord(ticked: readonly string[], label: string): string {
  if (ticked.includes(label)) return 'with …';
  return ticked.length === 1 ? 'this' : 'compare';
}

/** A version whose text falls to under half of the one before is flagged. */
function Drop({ version, before }: { version: Version; before: Version | undefined }) {
  if (!version.textFell) return null;
  const share =
    before?.words && version.words !== null
      ? ` −${Math.round(100 - (version.words / before.words) * 100)} %`
      : '';
  return <strong className="alarm"> text fell to under half{share}</strong>;
}

function Size({
  version,
  before,
  largest,
}: {
  version: Version;
  before: Version | undefined;
  largest: number;
}) {
  const change = before ? version.size - before.size : 0;
  const against =
    change === 0
      ? 'as before'
      : `${change > 0 ? '+' : '−'}${bytes(Math.abs(change))} against ${before ? numberWords(before.label) : 'nothing'}`;
  const words = before ? `${bytes(version.size)}, ${against}` : bytes(version.size);
  return (
    <Tooltip title={words}>
      <span className="size-bar" role="img" aria-label={words}>
        <span style={{ width: `${(version.size / largest) * 100}%` }} />
      </span>
    </Tooltip>
  );
}
