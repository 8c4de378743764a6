import { EventEmitter } from 'node:events';
import { type Change, type Decision, explain, type Rulebook, type SightFacts, sightFacts, type Version } from '@polychron/core';
import type { Context } from './context.ts';
import type { LoadedDocument } from './store/documents.ts';
import { accessDocument, actorIn, type Caller } from './services/access.ts';
import { Refused } from './refused.ts';

/** Something that happened, for open pages to look again. */
export type Happening =
  | { kind: 'document'; documentId: string; libraryId: string; rules: Rulebook;
    /** What it is about, as it was before and is now: whoever sees one of them hears of it. */
    about: readonly SightFacts[];
    /** Custody changed: whoever sees anything of the document hears of it. */
    custody: boolean }
  /** Rules or name of a library: every member hears of it. */
  | { kind: 'library'; libraryId: string }
  | { kind: 'notices'; personIds: readonly string[] };

/** Carries happenings from the acts to the people who listen. */
export class Happenings extends EventEmitter<{ happening: [Happening]; end: [] }> {
  constructor() { super(); this.setMaxListeners(0); }
  tell(happening: Happening): void { this.emit('happening', happening); }
  /** Sends everybody home who listens. */
  end(): void { this.emit('end'); }
}

/** That a document is held, or free, everybody knows who sees it; saves and ends only whoever sees the base. */
const known = new Set<Change['kind']>(['openCustody', 'closeCustody']);
const forBase = new Set<Change['kind']>(['setUntil', 'saveWorkingCopy', 'emptyWorkingCopy', 'moveBase', 'setAside']);

/** What an act on a document is about. */
export function happeningOf(document: LoadedDocument, decision: Decision): Happening {
  const loaded = [document.latest, document.inForce, ...document.scheduled].filter((version): version is Version => version !== null);
  const named = new Set(decision.changes.flatMap((change) => ('versionId' in change ? [change.versionId] : [])));
  const before = loaded.filter(({ id }) => named.has(id));
  const after = before.map((version) => ({ ...version, ...decision.changes.reduce((changed, change) => ('versionId' in change && change.versionId === version.id ? { ...changed, ...changeOf(change) } : changed), {}) }));
  const base = document.custody && decision.changes.some(({ kind }) => forBase.has(kind)) ? [document.custody.base] : [];
  const added = decision.changes.flatMap((change) => (change.kind === 'addVersion' ? [{ ...document.latest, ...change.version, thinned: null }] : []));
  return {
    kind: 'document', documentId: document.id, libraryId: document.libraryId, rules: document.rules,
    about: [...before, ...after, ...added, ...base].map((version) => sightFacts(document, version)),
    custody: decision.changes.some(({ kind }) => known.has(kind)),
  };
}

function changeOf(change: Change): Partial<Version> {
  switch (change.kind) {
    case 'setState': return { state: change.state };
    case 'schedule': return { standing: 'scheduled' };
    case 'comeIntoForce': return { standing: 'inForce' };
    case 'supersede': return { standing: 'superseded' };
    default: return {};
  }
}

/** Whether somebody hears of a happening: only of what they see, or saw until now. */
export async function hears(context: Context, caller: Caller, happening: Happening): Promise<boolean> {
  if (happening.kind === 'notices') return happening.personIds.includes(caller.id);
  const actor = await actorIn(context, caller, happening.libraryId);
  if (actor.roles.size === 0) return false;
  if (happening.kind === 'library') return true;
  if (happening.about.some((facts) => explain(actor, facts, happening.rules).sees)) return true;
  if (!happening.custody) return false;
  try {
    await accessDocument(context, caller, happening.documentId);
    return true;
  } catch (error) {
    if (error instanceof Refused) return false;
    throw error;
  }
}
