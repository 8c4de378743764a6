import type * as contract from '@polychron/contract';
import { explainVersion, labelIn, textFell, type Version } from '@polychron/core';
import type { Access } from '../access/caller.ts';
import { sees } from '../access/sees.ts';
import type { Context } from '../context.ts';
import type { Tx } from '../store/database.ts';
import { endedRuns, type EndedRun } from '../store/approvals.ts';
import { namesOf, nobody } from '../store/people.ts';
import { findVersions, type VersionOutline, wordsBefore } from '../store/versions.ts';
import { askedAbout, decidedRunView, peopleOfRun } from './decidedRun.ts';
import { fieldsView, peopleIn } from './fieldsView.ts';
import { versionActs } from './mayDo.ts';

/** A moment as the API tells it. */
export const instant = (at: Date | null): string | null => at?.toISOString() ?? null;

/** What was thinned, as the API tells it. */
export const thinnedView = ({ thinned }: Pick<Version, 'thinned'>): contract.Version['thinned'] =>
  thinned && { at: thinned.at.toISOString(), until: thinned.until.toISOString(), why: thinned.why };

/** The label of a version where the actor sees it; else null. */
export function seenLabel(access: Access, version: VersionOutline | null | undefined): string | null {
  if (!version || !sees(access, version)) return null;
  return labelIn(access.document, version);
}

/** What a version was made of, where that is one of the same document which the actor sees. */
export const originView = (
  access: Access,
  { kind, from }: Version['origin'],
  sources: ReadonlyMap<string, VersionOutline>,
): contract.Version['origin'] => ({
  kind,
  from: kind === 'template' ? null : seenLabel(access, sources.get(from ?? '')),
});

/**
 * Versions of a document that somebody sees, one after another, oldest first; `whole` where the first is
 * among them.
 */
export interface Run {
  versions: readonly VersionOutline[];
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
  const { views } = await tellVersions(context, [{ access, versions, run }]);
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

/** Versions as the API tells them, with what was read for that. */
export interface ToldVersions {
  views: ReadonlyMap<string, contract.Version>;
  /** Versions that these, and those around them, were made of. */
  sources: ReadonlyMap<string, VersionOutline>;
  people: ReadonlyMap<string, contract.Person>;
}

/**
 * Versions of several documents of one library at once, in a fixed number of queries.
 * @param options.alsoNamed people whose names are wanted besides
 */
export async function tellVersions(
  context: Context,
  wanted: readonly VersionsOf[],
  { alsoNamed = [], tx }: { alsoNamed?: readonly (string | null)[]; tx?: Tx | undefined } = {},
): Promise<ToldVersions> {
  const all = wanted.flatMap(({ versions }) => versions);
  const known = new Map(wanted.flatMap((of) => (of.access.past ? wordsThen(of) : wordsInRun(of))));
  // Whoever looks back looks at one moment.
  const past = wanted[0]?.access.past;
  const named = [...alsoNamed, ...all.flatMap(({ authorId, fields }) => [authorId, ...peopleIn(fields.own)])];
  const [sources, found, runs, mostPeople] = await Promise.all([
    sourcesOf(context, [...all, ...wanted.flatMap(({ run }) => run?.versions ?? [])], tx),
    wordsBeforeOthers(context, wanted, known, tx),
    endedRuns(
      context,
      all.flatMap(({ id, origin }) => [id, ...(origin.from === null ? [] : [origin.from])]),
      { by: past?.at, tx },
    ),
    namesOf(context, named, tx),
  ]);
  const words = new Map([...found, ...known]);
  const others = [...runs.values()].flatMap(peopleOfRun).filter((id) => !mostPeople.has(id));
  const people = new Map([...mostPeople, ...(await namesOf(context, others, tx))]);
  const facts: ViewFacts = { people, sources, runs, words, now: past?.at ?? context.clock() };
  const views = new Map(
    wanted.flatMap(({ access, versions }) =>
      versions.map((version) => [version.id, toView(access, version, facts)] as const),
    ),
  );
  return { views, sources, people };
}

/** The versions that these were made of, mostly some of themselves. */
async function sourcesOf(
  context: Context,
  versions: readonly VersionOutline[],
  tx?: Tx,
): Promise<Map<string, VersionOutline>> {
  const sources = new Map<string, VersionOutline>(versions.map((version) => [version.id, version]));
  const others = versions.map(({ origin }) => origin.from).filter((id) => id !== null && !sources.has(id));
  for (const [id, version] of await findVersions(context, others, tx)) sources.set(id, version);
  return sources;
}

/** The words of the versions before those of which no run tells. */
async function wordsBeforeOthers(
  context: Context,
  wanted: readonly VersionsOf[],
  known: ReadonlyMap<string, unknown>,
  tx?: Tx,
): Promise<Map<string, number | null>> {
  const [first] = wanted;
  if (!first) return new Map();
  const { actor, document } = first.access;
  const others = wanted
    .flatMap(({ versions }) => versions.map(({ id }) => id))
    .filter((id) => !known.has(id));
  return wordsBefore(context, { actor, rules: document.rules }, others, tx);
}

/** Words of the version before each of these, as far as the run they are of tells. */
function wordsInRun({ versions, run }: VersionsOf): [id: string, words: number | null][] {
  if (!run) return [];
  const places = new Map(run.versions.map(({ id }, place) => [id, place]));
  return versions.flatMap(({ id }): [string, number | null][] => {
    const place = places.get(id) ?? -1;
    const before = run.versions[place - 1];
    return before || (place === 0 && run.whole) ? [[id, before?.content.words ?? null]] : [];
  });
}

/** Words of the version before each of these, among those that were seen then. */
function wordsThen({ access, versions }: VersionsOf): [id: string, words: number | null][] {
  const seen = [...(access.past?.seen.values() ?? [])];
  return versions.map(({ id }) => [id, seen[seen.findIndex((one) => one.id === id) - 1]?.words ?? null]);
}

interface ViewFacts {
  people: ReadonlyMap<string, contract.Person>;
  sources: ReadonlyMap<string, VersionOutline>;
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
    origin: originView(access, origin, facts.sources),
    size: content.size,
    sha256: content.sha256,
    fileName: content.fileName,
    mediaType: content.mediaType,
    words: content.words,
    fields: fieldsView(version.fields, (id) => facts.people.get(id) ?? nobody),
    sheltered: version.sheltered,
    thinned: thinnedView(version),
    withdrawn: version.withdrawn && { ...version.withdrawn, at: version.withdrawn.at.toISOString() },
    inForceFrom: instant(version.inForceFrom),
    supersededAt: instant(version.supersededAt),
    textFell: textFell(content.words, facts.words.get(version.id) ?? null),
    approval: run ? decidedRunView(access, asked, run, facts.people) : null,
    why: explainVersion(document, actor, version, of).why,
    acts: versionActs(access, version, facts.now),
  };
}
