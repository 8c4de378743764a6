import type { Version } from '../document/version.ts';
import { supersedeBefore } from './publication.ts';
import { type Change, type Decision, type DocumentState, labelIn } from './state.ts';

/**
 * What time alone changes: scheduled versions whose moment has come are in force from that moment. Null when
 * none, and while the document is void.
 */
export function comeIntoForce(
  state: Pick<DocumentState, 'inForce' | 'scheduled' | 'presentEra' | 'voided'>,
  now: Date,
): Decision | null {
  if (state.voided) return null;
  const changes: Change[] = [];
  const came: Version[] = [];
  let { inForce, scheduled } = state;
  for (const { version, at } of dueVersions(scheduled, now)) {
    if (!scheduled.includes(version)) continue;
    const others = scheduled.filter((other) => other !== version);
    changes.push(...supersedeBefore({ inForce, scheduled: others }, at, version.sequence), {
      kind: 'comeIntoForce',
      versionId: version.id,
      at,
    });
    came.push(version);
    inForce = version;
    scheduled = others.filter((other) => other.sequence > version.sequence);
  }
  if (came.length === 0) return null;
  return {
    changes,
    ledger: { act: 'comeIntoForce', facts: { versions: came.map((version) => labelIn(state, version)) } },
  };
}

/** Scheduled versions whose moment has come, in the order of their moments. */
function dueVersions(scheduled: readonly Version[], now: Date): { version: Version; at: Date }[] {
  return scheduled
    .flatMap((version) => (version.inForceFrom ? [{ version, at: version.inForceFrom }] : []))
    .filter(({ at }) => at.getTime() <= now.getTime())
    .sort((a, b) => a.at.getTime() - b.at.getTime() || a.version.sequence - b.version.sequence);
}
