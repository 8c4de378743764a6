import { type Reading, routes, type Version } from '@polychron/contract';
import { encodingNames, joinedReading } from '@polychron/core';
import { useInfiniteQuery } from '@tanstack/react-query';
import { addressOf } from '../../ui/api.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { WhenSeen } from '../../ui/WhenSeen.tsx';
import { PlaceInQueue } from '../PlaceInQueue.tsx';
import { readingQuery } from '../queries.ts';
import { Sheets } from './Sheets.tsx';

const counted = (count: number, what: string): string => `${count} ${what}${count === 1 ? '' : 's'}`;

/** What is to be said of a file beside its text: its encoding, changes that wait in it, what is not shown. */
function ReadingNotes({ reading }: { reading: Reading }) {
  const { encoding, pending, unshown = [] } = reading;
  const lines = [
    ...(encoding && encoding !== 'utf-8' ? [`The file is written in ${encodingNames[encoding]}.`] : []),
    ...(pending
      ? [
          `The file holds tracked changes that are not accepted: ${counted(pending.inserted, 'insertion')}, ${counted(pending.deleted, 'deletion')}. They are marked; what counts is the text as if they were.`,
        ]
      : []),
    ...(unshown.length > 0
      ? [
          `Not shown: ${unshown.map(({ what, count }) => counted(count, what)).join(', ')}. Download the file to see all of it.`,
        ]
      : []),
  ];
  return lines.map((line) => (
    <p key={line} className="muted reading-note">
      {line}
    </p>
  ));
}

/** A version as it reads, part by part as one reads on. */
export function ReadingOf({ documentId, version }: { documentId: string; version: Pick<Version, 'label'> }) {
  const { data, error, hasNextPage, isFetchingNextPage, fetchNextPage } = useInfiniteQuery(
    readingQuery(documentId, version.label),
  );
  const [first] = data?.pages ?? [];
  if (!first) {
    if (error) return <Refusal error={error} />;
    return (
      <>
        <div className="sheet sheet-waiting" aria-busy="true" />
        <PlaceInQueue />
      </>
    );
  }
  const reading = joinedReading(first, data?.pages ?? []);
  return (
    <>
      <Sheets
        reading={reading}
        picture={(part) =>
          addressOf(routes.versionPicture, { params: { id: documentId, v: version.label, part } })
        }
      />
      <ReadingNotes reading={first} />
      {error && <Refusal error={error} />}
      {hasNextPage && (
        <WhenSeen onSeen={() => !isFetchingNextPage && void fetchNextPage()}>
          {first.format === 'table'
            ? 'The next rows come as you read on.'
            : `${reading.blocks.length.toLocaleString('en')} of ${first.total.toLocaleString('en')} paragraphs are shown; the next come as you read on.`}
        </WhenSeen>
      )}
    </>
  );
}
