import type * as contract from '@polychron/contract';
import type { Access } from '../access/caller.ts';
import { wouldSee } from '../access/sees.ts';
import type { EndedRun } from '../store/approvals.ts';
import { nobody } from '../store/people.ts';
import type { VersionOutline } from '../store/versions.ts';

/** The version that a run was about, where another came of it: a published one bears its draft's. */
export const askedAbout = (
  version: VersionOutline,
  sources: ReadonlyMap<string, VersionOutline>,
): VersionOutline => (version.origin.kind === 'publish' && sources.get(version.origin.from ?? '')) || version;

/** People that a run names. */
export const peopleOfRun = ({ run, posts }: EndedRun): string[] => [
  run.submitterId,
  ...posts.map(({ personId }) => personId),
];

/** A run that ended, as told to whoever sees the version; its words only where they could see the run. */
export function decidedRunView(
  access: Access,
  about: VersionOutline,
  { run, posts }: EndedRun,
  people: ReadonlyMap<string, contract.Person>,
): contract.DecidedRun {
  const asked: VersionOutline = { ...about, state: 'inApproval', standing: null };
  const seesRun = wouldSee(access, asked);
  const words = (text: string): string | null => (seesRun ? text : null);
  const person = (id: string): contract.Person => people.get(id) ?? nobody;
  return {
    mode: run.mode,
    submittedBy: person(run.submitterId),
    at: run.submittedAt.toISOString(),
    comment: words(run.comment),
    outcome: run.outcome,
    endedAt: run.endedAt.toISOString(),
    posts: posts.map(({ personId, decision, decidedAt, comment, inPlace }) => ({
      ...person(personId),
      decision,
      at: decidedAt?.toISOString() ?? null,
      comment: words(comment),
      inPlace: Boolean(inPlace),
    })),
  };
}
