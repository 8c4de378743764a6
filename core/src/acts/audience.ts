import type { Version } from '../document/version.ts';
import type { Rulebook } from '../rules/rulebook.ts';
import { maySee, type SightFacts, type Viewer } from '../rules/sight.ts';
import type { Reduced } from './reduce.ts';
import { type Change, type Decision, type DocumentState, sightFacts } from './state.ts';

/** Who hears of a decision about a document. */
export interface Audience {
  /** Whoever sees all the versions of one of these lists, as they were or as they are. */
  sees: readonly (readonly SightFacts[])[];
  /** People who hear of it whatever they see. */
  personIds: readonly string[];
  /** Whoever sees anything of the document. */
  everyone: boolean;
  rules: Rulebook;
}

/**
 * Of whom a kind of change speaks: of those who see its version, who may know its custody's details, or who
 * see anything now, or of those who saw what is in force as well.
 */
type About = 'version' | 'run' | 'custodyDetail' | 'document' | 'whole';
const about: Record<Change['kind'], About> = {
  addVersion: 'version',
  setState: 'version',
  schedule: 'version',
  comeIntoForce: 'version',
  supersede: 'version',
  withdraw: 'version',
  reinstate: 'version',
  thin: 'version',
  recover: 'version',
  shelter: 'version',
  openRun: 'run',
  decidePost: 'run',
  decideInPlace: 'run',
  closeRun: 'run',
  replacePost: 'run',
  // That a document is held, or free, everybody knows who sees it; ends, saves and bases only whoever sees
  // base and latest version.
  openCustody: 'document',
  closeCustody: 'document',
  passCustody: 'document',
  setUntil: 'custodyDetail',
  saveWorkingCopy: 'custodyDetail',
  emptyWorkingCopy: 'custodyDetail',
  setAsked: 'custodyDetail',
  setLock: 'custodyDetail',
  moveBase: 'custodyDetail',
  setAside: 'custodyDetail',
  passAside: 'custodyDetail',
  setPeople: 'document',
  setAdministrative: 'document',
  setTemplate: 'document',
  review: 'document',
  setLimit: 'document',
  setVoided: 'whole',
  setDistribution: 'document',
  confirmRead: 'document',
};

/** Who hears of a decision, from the document as it was and as it became. */
export function audienceOf(before: DocumentState, decision: Decision, after: Reduced): Audience {
  const abouts = new Set(decision.changes.map(({ kind }) => about[kind]));
  const sees: SightFacts[][] = [];
  const hears = (state: DocumentState, ...versions: (Version | null)[]): void => {
    sees.push(versions.flatMap((version) => (version ? [sightFacts(state, version)] : [])));
  };
  for (const changed of after.versions) {
    if (changed.before) hears(before, changed.before);
    hears(after.state, changed.after);
  }
  if (abouts.has('custodyDetail')) {
    const base = (after.state.custody ?? before.custody)?.base ?? null;
    hears(after.state, after.state.latest, base);
  }
  const run = after.state.approval ?? before.approval;
  if (abouts.has('run')) hears(after.state, after.state.latest);
  // Who joins or leaves the team may see another version as the latest.
  if (abouts.has('document')) {
    hears(before, before.latest);
    hears(after.state, after.state.latest);
  }
  // Whoever saw no more than what is in force may not see the document any more, or does again.
  if (abouts.has('whole')) {
    for (const state of [before, after.state]) hears(state, state.inForce);
    for (const state of [before, after.state]) hears(state, state.latest);
  }
  return {
    sees,
    personIds: abouts.has('run') && run ? run.posts.map(({ personId }) => personId) : [],
    everyone: abouts.has('document') || abouts.has('whole'),
    rules: before.rules,
  };
}

/**
 * Whether a member is of the audience by what they see; `everyone` is for the caller, who knows what else
 * they see.
 */
export function isHeardBy(audience: Audience, viewer: Viewer): boolean {
  if (viewer.roles.size === 0) return false;
  if (audience.personIds.includes(viewer.id)) return true;
  return audience.sees.some(
    (versions) => versions.length > 0 && versions.every((facts) => maySee(viewer, facts, audience.rules)),
  );
}
