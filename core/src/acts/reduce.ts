import type { Version } from '../document/version.ts';
import { type Approver, openPost } from '../rules/approvalRun.ts';
import type { Rulebook } from '../rules/rulebook.ts';
import { type Change, type Custody, type DocumentState, newVersion } from './state.ts';

/** A version a decision added (`before` is null) or changed. */
export interface VersionChange {
  before: Version | null;
  after: Version;
}

/**
 * A document after a decision, and every version that was added or changed, in the order they were first
 * named.
 */
export interface Reduced<S extends DocumentState = DocumentState> {
  state: S;
  versions: readonly VersionChange[];
  /** The version added last; null where none was. */
  added: Version | null;
}

/** What `reduce` cannot know by itself. */
export interface World {
  /** An id for each version that is added. */
  newId(): string;
  /** Versions that changes name and the state does not hold. */
  versions?: Iterable<Version> | undefined;
}

/**
 * What changes make of a document. The one interpretation of a `Change`: the store keeps what it says,
 * rehearsals and the sample live by it, and events are told by it.
 * @throws Error where a change names a version that neither the state nor `world` holds: a mistake in the
 * caller
 */
export function reduce<S extends DocumentState>(
  state: S,
  changes: readonly Change[],
  world: World,
): Reduced<S> {
  const reducer = new Reducer(state, world);
  for (const change of changes) reducer.apply(change);
  return { state: reducer.state, versions: [...reducer.changed.values()], added: reducer.added };
}

/** Of what a document is opened: who it belongs to, and the rules it lives by. */
export interface Opening {
  id: string;
  number: string;
  owner: { id: string; name: string };
  coAuthorIds: readonly string[];
  approvers: readonly Approver[];
  rules: Rulebook;
  bytesKept: number | null;
}

/**
 * A document opened by its first changes, of which the first adds its first version.
 * @throws Error where it does not
 */
export function openDocument(opening: Opening, changes: readonly Change[], world: World): Reduced {
  const [first, ...rest] = changes;
  if (first?.kind !== 'addVersion') throw new Error('a document opens with its first version');
  const { owner, bytesKept, ...facts } = opening;
  const latest: Version = { ...first.version, id: world.newId(), sequence: 1, ...untouched };
  const state: DocumentState = {
    ...facts,
    ownerId: owner.id,
    ownerName: owner.name,
    administrative: {},
    templateFor: null,
    limit: null,
    voided: null,
    distribution: null,
    presentEra: latest.era,
    latest,
    inForce: latest.standing === 'inForce' ? latest : null,
    scheduled: latest.standing === 'scheduled' ? [latest] : [],
    approval: null,
    highest: numberOf(latest),
    custody: null,
    setAsideBaseIds: [],
    bytesKept: bytesKept === null ? null : bytesKept + latest.content.size,
  };
  const reducer = new Reducer(state, world);
  reducer.added = latest;
  reducer.changed.set(latest.id, { before: null, after: latest });
  for (const change of rest) reducer.apply(change);
  return { state: reducer.state, versions: [...reducer.changed.values()], added: reducer.added };
}

/** How a new version stands to keeping and to what comes after it. */
const untouched = { thinned: null, sheltered: false, supersededAt: null, withdrawn: null };
const unsaved = { workingCopy: null, saves: 0, bytesSaved: 0, lastSavedAt: null, sitting: null };
const unopened = { lock: null, askedAt: null };
const numberOf = ({ era, major, minor, numbering }: Version): DocumentState['highest'] => ({
  era,
  major,
  minor,
  numbering,
});
const bySequence = (a: Version, b: Version): number => a.sequence - b.sequence;

class Reducer<S extends DocumentState> {
  readonly changed = new Map<string, VersionChange>();
  added: Version | null = null;
  private readonly known: Map<string, Version>;

  constructor(
    public state: S,
    private readonly world: World,
  ) {
    const { latest, inForce, scheduled, custody } = state;
    const held = [
      latest,
      ...(inForce ? [inForce] : []),
      ...scheduled,
      ...(custody ? [custody.base] : []),
      ...(world.versions ?? []),
    ];
    this.known = new Map(held.map((version) => [version.id, version]));
  }

  apply(change: Change): void {
    const { custody, approval } = this.state;
    switch (change.kind) {
      case 'addVersion':
        this.add({
          ...change.version,
          id: this.world.newId(),
          sequence: this.state.latest.sequence + 1,
          ...untouched,
        });
        return;
      case 'setState':
        this.patch(change.versionId, { state: change.state });
        return;
      case 'schedule':
        this.patch(change.versionId, { standing: 'scheduled', inForceFrom: change.inForceFrom });
        return;
      case 'comeIntoForce':
        this.patch(change.versionId, { standing: 'inForce', inForceFrom: change.at, supersededAt: null });
        return;
      case 'supersede':
        this.patch(change.versionId, { standing: 'superseded', supersededAt: change.at });
        return;
      case 'withdraw': {
        const { withdrawn, versionId } = change;
        const supersededAt = this.version(versionId).supersededAt ?? withdrawn.at;
        this.patch(versionId, { state: 'withdrawn', standing: null, supersededAt, withdrawn });
        return;
      }
      case 'reinstate':
        this.patch(change.versionId, {
          state: 'published',
          standing: 'inForce',
          inForceFrom: change.at,
          supersededAt: null,
          withdrawn: null,
        });
        return;
      case 'thin':
        this.patch(change.versionId, { thinned: change.thinned });
        return;
      case 'recover':
        this.patch(change.versionId, { thinned: null });
        return;
      case 'shelter':
        this.patch(change.versionId, { sheltered: change.sheltered });
        return;
      case 'openRun':
        this.set({ approval: { ...change.run, versionId: this.version(change.run.versionId).id } });
        return;
      case 'decidePost': {
        const { personId, decision, at, comment } = change;
        if (!approval) return;
        const posts = approval.posts.map((post) =>
          post.personId === personId ? { ...post, decision, at, comment } : post,
        );
        this.set({ approval: { ...approval, posts } });
        return;
      }
      case 'decideInPlace': {
        const { kind: _, ...said } = change;
        if (!approval) return;
        const others = approval.posts.filter(({ personId }) => personId !== said.personId);
        this.set({ approval: { ...approval, posts: [...others, { ...said, inPlace: true }] } });
        return;
      }
      case 'closeRun':
        this.set({ approval: null });
        return;
      case 'replacePost': {
        const { fromId, to } = change;
        if (!approval) return;
        const posts = approval.posts.map((post) => (post.personId === fromId ? openPost(to) : post));
        this.set({ approval: { ...approval, posts } });
        return;
      }
      case 'openCustody': {
        const { kind: _, baseId, ...opened } = change;
        this.set({ custody: { ...opened, base: this.version(baseId), ...unsaved, ...unopened } });
        return;
      }
      case 'setUntil':
        this.hold({ until: change.until });
        return;
      case 'saveWorkingCopy': {
        const { content, at, sitting, replaces } = change;
        const saves = (custody?.saves ?? 0) + (replaces ? 0 : 1);
        const grown = content.size - (replaces ? (custody?.workingCopy?.size ?? 0) : 0);
        this.count(grown);
        const bytesSaved = (custody?.bytesSaved ?? 0) + grown;
        this.hold({ workingCopy: content, saves, bytesSaved, lastSavedAt: at, sitting });
        return;
      }
      case 'emptyWorkingCopy':
        this.count(-(custody?.bytesSaved ?? 0));
        this.hold({ ...unsaved, askedAt: null });
        return;
      case 'setAsked':
        this.hold({ askedAt: change.at });
        return;
      case 'setLock':
        this.hold({ lock: change.lock });
        return;
      case 'moveBase':
        this.hold({ base: this.version(change.to) });
        return;
      case 'setAside':
        if (!custody) return;
        this.set({ setAsideBaseIds: [...this.state.setAsideBaseIds, custody.base.id] });
        // Its saves are kept on, with the copy.
        this.hold(unsaved);
        return;
      case 'closeCustody':
        this.count(-(custody?.bytesSaved ?? 0));
        this.set({ custody: null });
        return;
      case 'passCustody':
        this.hold({
          holderId: change.holderId,
          holderName: change.holderName,
          since: change.at,
          ...unopened,
        });
        return;
      case 'review':
      case 'passAside':
      case 'confirmRead':
        return;
      case 'setLimit':
        this.set({ limit: change.limit });
        return;
      case 'setVoided':
        this.set({ voided: change.voided });
        return;
      case 'setDistribution':
        this.set({ distribution: change.distribution });
        return;
      case 'setAdministrative':
        this.set({ administrative: change.values });
        return;
      case 'setTemplate':
        this.set({ templateFor: change.type });
        return;
      case 'setPeople': {
        const { owner, coAuthorIds, approvers } = change;
        this.set({
          ...(owner ? { ownerId: owner.id, ownerName: owner.name } : {}),
          ...(coAuthorIds ? { coAuthorIds } : {}),
          ...(approvers ? { approvers: approvers.asked } : {}),
        });
        return;
      }
    }
  }

  private set(changed: Partial<DocumentState>): void {
    this.state = { ...this.state, ...changed };
  }

  private hold(changed: Partial<Custody>): void {
    const { custody } = this.state;
    if (custody) this.set({ custody: { ...custody, ...changed } });
  }

  private version(id: string): Version {
    const found = id === newVersion ? this.added : this.known.get(id);
    if (!found) throw new Error(`a change names the version ${id}, which is not known here`);
    return found;
  }

  private add(version: Version): void {
    this.added = version;
    this.known.set(version.id, version);
    this.changed.set(version.id, { before: null, after: version });
    this.set({ latest: version, presentEra: version.era, highest: numberOf(version) });
    this.count(version.content.size);
    this.stand(version);
  }

  private patch(id: string, change: Partial<Version>): void {
    const before = this.version(id);
    const after = { ...before, ...change };
    this.known.set(after.id, after);
    const known = this.changed.get(after.id);
    this.changed.set(after.id, { before: known ? known.before : before, after });
    if (this.added?.id === after.id) this.added = after;
    const { latest, custody } = this.state;
    if (latest.id === after.id) this.set({ latest: after });
    if (custody?.base.id === after.id) this.hold({ base: after });
    if (before.thinned !== null && after.thinned === null) this.count(after.content.size);
    if (before.thinned === null && after.thinned !== null) this.count(-after.content.size);
    this.stand(after);
  }

  /** Puts a version where its standing says: in force, among the scheduled ones, or neither. */
  private stand(version: Version): void {
    const { inForce, scheduled } = this.state;
    const others = scheduled.filter(({ id }) => id !== version.id);
    const isScheduled = version.state === 'published' && version.standing === 'scheduled';
    this.set({ scheduled: isScheduled ? [...others, version].sort(bySequence) : others });
    if (version.state === 'published' && version.standing === 'inForce') this.set({ inForce: version });
    else if (inForce?.id === version.id) this.set({ inForce: null });
  }

  private count(bytes: number): void {
    const { bytesKept } = this.state;
    if (bytesKept !== null) this.set({ bytesKept: bytesKept + bytes });
  }
}
