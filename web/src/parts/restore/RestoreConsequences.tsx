import { numberWords } from '../versionNumber/numberWords.ts';
import { routes, type Document, type Version } from '@polychron/contract';
import type { Level } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { call } from '../../ui/api.ts';
import { Consequences, type Outcome } from '../../ui/Consequences.tsx';
import { refreshDocument } from '../queries.ts';

/** What restoring an earlier version would do, with the number it would become on each button. */
export function RestoreConsequences({
  document,
  version,
  onLeave,
  onDone,
}: {
  document: Document;
  version: Version;
  onLeave: () => void;
  onDone?: (made: Version) => void;
}) {
  const client = useQueryClient();
  const restore =
    (level: Level) =>
    async (comment: string): Promise<void> => {
      const made = await call(routes.restore, {
        params: { id: document.id },
        body: { from: version.label, level, comment, fields: false },
      });
      await refreshDocument(client, document.id);
      onDone?.(made);
    };
  const { toCome, inForce } = document;
  if (!toCome) return null;
  const label = numberWords(version.label);
  const outcomes: Outcome[] = [
    ...(toCome.minor
      ? [{ label: `Restore ${label} as ${toCome.minor}`, act: restore('minor'), primary: true }]
      : []),
    {
      label: toCome.submittedAs
        ? `Restore ${label} and submit ${toCome.submittedAs}`
        : `Restore ${label} as ${toCome.major}, in force`,
      act: restore('major'),
      primary: !toCome.minor,
    },
  ];
  return (
    <Consequences outcomes={outcomes} commentHint="Why? (Earlier content brought back)" onLeave={onLeave}>
      The content of {label} comes back as a new version{toCome.minor && ` ${toCome.minor}, a draft`};
      everything in between stays. {asMajor(toCome, inForce && numberWords(inForce.label))}
    </Consequences>
  );
}

function asMajor(toCome: NonNullable<Document['toCome']>, inForce: string | null): string {
  if (toCome.submittedAs) {
    const seen = inForce ? `readers see ${inForce}` : 'readers see nothing';
    return `Submitted, ${toCome.submittedAs} waits for its approvers; ${seen} until they agree.`;
  }
  return inForce
    ? `As ${toCome.major} it takes the place of ${inForce} for readers at once.`
    : `As ${toCome.major} it is what readers see at once.`;
}
