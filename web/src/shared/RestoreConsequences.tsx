import { routes, type Document, type Version } from '@polychron/contract';
import type { Level } from '@polychron/core';
import { useQueryClient } from '@tanstack/react-query';
import { call } from './api.ts';
import { Consequences, type Outcome } from './Consequences.tsx';
import { refreshDocument } from './queries.ts';

/** What restoring an earlier version would do, with the number it would become on each button. */
export function RestoreConsequences({ document, version, onLeave, onDone }: { document: Document; version: Version; onLeave: () => void; onDone?: (made: Version) => void }) {
  const client = useQueryClient();
  const restore = (level: Level) => async (comment: string): Promise<void> => {
    const made = await call(routes.restore, { params: { id: document.id }, body: { from: version.label, level, comment, fields: false } });
    await refreshDocument(client, document.id);
    onDone?.(made);
  };
  const { toCome, inForce } = document;
  if (!toCome) return null;
  const outcomes: Outcome[] = [
    ...(toCome.minor ? [{ label: `Restore ${version.label} as ${toCome.minor}`, act: restore('minor'), primary: true }] : []),
    { label: toCome.submittedAs ? `Restore ${version.label} and submit ${toCome.submittedAs}` : `Restore ${version.label} as ${toCome.major}, in force`, act: restore('major'), primary: !toCome.minor },
  ];
  return (
    <Consequences outcomes={outcomes} commentHint="Why? (Earlier content brought back)" onLeave={onLeave}>
      The content of {version.label} comes back as a new version{toCome.minor && ` ${toCome.minor}, a draft`}; everything in between stays.{' '}
      {toCome.submittedAs ? `Submitted, ${toCome.submittedAs} waits for its approvers; ${inForce ? `readers see ${inForce.label} until they agree.` : 'readers see nothing until they agree.'}` : inForce ? `As ${toCome.major} it takes the place of ${inForce.label} for readers at once.` : `As ${toCome.major} it is what readers see at once.`}
    </Consequences>
  );
}
