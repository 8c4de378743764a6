import type * as contract from '@polychron/contract';
import { explainVersion, labelIn, textFell, type Version } from '@polychron/core';
import type { Access } from '../access/caller.ts';
import type { Context } from '../context.ts';
import type { Tx } from '../store/database.ts';
import { endedRuns, type EndedRun } from '../store/approvals.ts';
import { namesOf, nobody } from '../store/people.ts';
import { findVersions, wordsBefore } from '../store/versions.ts';
import { askedAbout, decidedRunView, peopleOfRun } from './decidedRun.ts';
import { versionActs } from './mayDo.ts';

/** A moment as the API tells it. */
export const instant = (at: Date | null): string | null => at?.toISOString() ?? null;

/** What was thinned, as the API tells it. */
export const thinnedView = ({ thinned }: Pick<Version, 'thinned'>): contract.Version['thinned'] =>
  thinned && { at: thinned.at.toISOString(), until: thinned.until.toISOString(), why: thinned.why };

/** The label of a version where the actor sees it; else null. */
export function seenLabel({ document, actor }: Access, version: Version | null | undefined): string | null {
  if (!version || !explainVersion(document, actor, version).sees) return null;
  return labelIn(document, version);
}

/**
 * Versions of a document that somebody sees, one after another, oldest first; `whole` where the first is
 * among them.
 */
export interface Run {
  versions: readonly Version[];
  whole: boolean;
}

/** Some versions of a document that one actor sees, and those around them where they are known already. */
export interface VersionsOf {
  access: Access;
  versions: readonly Version[];
  run?: Run;
}

/** Versions of one document as the API tells them. The caller must see every one of them. */
export async function versionViews(
  context: Context,
  access: Access,
  versions: readonly Version[],
  run: Run = { versions: [], whole: false },
): Promise<contract.Version[]> {
  const views = await versionViewsById(context, [{ access, versions, run }]);
  return versions.flatMap(({ id }) => views.get(id) ?? []);
}

/** One version as the API tells it. The caller must see it. */
export async function versionView(
  context: Context,
  access: Access,
  version: Version,
): Promise<contract.Version> {
  const [view] = await versionViews(context, access, [version]);
  if (!view) throw new Error('a version that was given has a view');
  return view;
}

/** Versions of several documents of one library at once, in a fixed number of queries; by id. */
export async function versionViewsById(
  context: Context,
  wanted: readonly VersionsOf[],
  tx?: Tx,
): Promise<Map<string, contract.Version>> {
  const [first] = wanted;
  const all = wanted.flatMap(({ versions }) => versions);
  if (!first || all.length === 0) return new Map();
  const { actor, document } = first.access;
  const known = new Map(wanted.flatMap(({ run }) => (run ? [...wordsInRun(run)] : [])));
  const others = all.map(({ id }) => id).filter((id) => !known.has(id));
  const [sources, found] = await Promise.all([
    findVersions(
      context,
      all.map(({ origin }) => origin.from),
      tx,
    ),
    wordsBefore(context, { actor, rules: document.rules }, others, tx),
  ]);
  const words = new Map([...found, ...known]);
  const runs = await endedRuns(
    context,
    all.flatMap((version) => [version.id, askedAbout(version, sources).id]),
    tx,
  );
  const people = await namesOf(
    context,
    [...all.map(({ authorId }) => authorId), ...[...runs.values()].flatMap(peopleOfRun)],
    tx,
  );
  const facts: ViewFacts = { people, sources, runs, words, now: context.clock() };
  return new Map(
    wanted.flatMap(({ access, versions }) =>
      versions.map((version) => [version.id, toView(access, version, facts)] as const),
    ),
  );
}

/** Words of the version before each of a run, as far as it tells. */
const wordsInRun = ({ versions, whole }: Run): Map<string, number | null> =>
  new Map(
    versions.flatMap(({ id }, place) => {
      const before = versions[place - 1];
      return before || whole ? [[id, before?.content.words ?? null]] : [];
    }),
  );

interface ViewFacts {
  people: ReadonlyMap<string, contract.Person>;
  sources: ReadonlyMap<string, Version>;
  /** Approval runs that ended, by the version they were about. */
  runs: ReadonlyMap<string, EndedRun>;
  /** Words of the version before each. */
  words: ReadonlyMap<string, number | null>;
  now: Date;
}

function toView(access: Access, version: Version, facts: ViewFacts): contract.Version {
  const { document, actor } = access;
  const { content, origin } = version;
  const of = actor.lookingAs === undefined ? 'you' : { name: actor.name };
  const asked = askedAbout(version, facts.sources);
  const run = facts.runs.get(version.id) ?? facts.runs.get(asked.id);
  return {
    id: version.id,
    label: labelIn(document, version),
    era: version.era,
    major: version.major,
    minor: version.minor,
    state: version.state,
    standing: version.standing,
    author: facts.people.get(version.authorId) ?? nobody,
    at: version.at.toISOString(),
    comment: version.comment,
    origin: { kind: origin.kind, from: seenLabel(access, facts.sources.get(origin.from ?? '')) },
    size: content.size,
    sha256: content.sha256,
    fileName: content.fileName,
    mediaType: content.mediaType,
    words: content.words,
    fields: version.fields,
    sheltered: version.sheltered,
    thinned: thinnedView(version),
    inForceFrom: instant(version.inForceFrom),
    supersededAt: instant(version.supersededAt),
    textFell: textFell(content.words, facts.words.get(version.id) ?? null),
    approval: run ? decidedRunView(access, asked, run, facts.people) : null,
    why: explainVersion(document, actor, version, of).why,
    acts: versionActs(access, version, facts.now),
  };
}
