import type { Version } from '@polychron/contract';
import { numberWords } from '@polychron/core';
import { useQuery } from '@tanstack/react-query';
import { moment } from '../ui/when.ts';
import { sessionQuery } from './queries.ts';
import { stateWords } from './versionNumber/VersionNumber.tsx';

/** What a sheet of paper has to say for itself: which versions, by whom and when, and who printed it when. */
export function PrintHead({ versions }: { versions: readonly Version[] }) {
  const { data: session } = useQuery(sessionQuery);
  return (
    <div className="print-only">
      {versions.map((version) => (
        <p key={version.id}>
          {numberWords(version.label)}, {stateWords(version)}: {version.author.name}, {moment(version.at)}
          {version.comment && (
            <>
              {' '}
              “<bdi>{version.comment}</bdi>”
            </>
          )}
        </p>
      ))}
      <p>
        Printed by {session?.name}, {moment(new Date().toISOString())}. Printed copies are not controlled.
      </p>
    </div>
  );
}
