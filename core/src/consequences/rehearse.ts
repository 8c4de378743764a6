import { formatLabel, numberToCome } from '../numbering/number.ts';
import type { Role } from '../policy/roles.ts';
import type { Rulebook } from '../policy/rulebook.ts';
import { type Keepable, type KeepRule, type Limits, limitsAnything, limitsAt, type Protection, versionsToThin } from '../keeping/thin.ts';
import { type Reach, reach, sightClass, type SightClass, sightClasses } from '../sight/explain.ts';
import { labelsToCome, type ToCome } from '../versions/newVersion.ts';
import type { Numbering, VersionNumber } from '../versions/version.ts';
import { type RuleNote, notesOn } from './notes.ts';

/** A version as a change of rules looks at it. */
export interface RehearsedVersion extends Keepable, VersionNumber { authorId: string; size: number }

/** A document with all its versions, oldest first, and what is under way on it. */
export interface RehearsedDocument {
  id: string; number: string; title: string;
  ownerId: string; coAuthorIds: readonly string[];
  /** Approvers named on the document itself. */
  approverIds: readonly string[];
  presentEra: number;
  highest: VersionNumber;
  versions: readonly RehearsedVersion[];
  custody: { holderId: string; holderName: string; baseId: string } | null;
  /** Bases of copies that were set aside. */
  setAsideBaseIds: readonly string[];
  /** Names the open approval run waits for; null where there is none. */
  waitingFor: readonly string[] | null;
}

export interface RehearsedMember { id: string; account: string; name: string; roles: ReadonlySet<Role> }

interface DocumentName { id: string; number: string; title: string }
export interface ThinItem { document: DocumentName; versionId: string; label: string; size: number; rule: KeepRule }
export interface SightShift { account: string; name: string; versions: number; documents: number }
export interface SightItem { document: DocumentName; versionId: string; label: string; state: string }
export interface NumberItem { document: DocumentName; now: ToCome; then: ToCome; becomes: string | null }
export interface CustodyItem extends NumberItem { holder: string; base: string }
export interface ApprovalItem { document: DocumentName; label: string; waitingFor: readonly string[] }

/** What a change of rules would do to a library. Lists hold what was asked for; the counts are of everything. */
export interface Rehearsal {
  documents: number; versions: number; bytesKept: number;
  thinned: { versions: number; documents: number; bytes: number; items: ThinItem[] };
  sight: { gains: SightShift[]; losses: SightShift[]; items: SightItem[] };
  custody: { total: number; items: CustodyItem[] };
  approvals: { total: number; items: ApprovalItem[] };
  numbers: { total: number; items: NumberItem[] };
  notes: RuleNote[];
}

/** Which items to collect: a part of each list, or of one list; `documents` narrows the thinned ones, not their counts. */
export interface Wanted {
  offset: number; limit: number;
  documents?: ReadonlySet<string> | undefined;
  /** Versions this member gains or loses. */
  sightOf?: { account: string; change: 'gains' | 'losses' } | undefined;
}

/** Sight's classes, and one more: versions whose approval the new rules end, drafts again. */
const ended = sightClasses.length;
const classIndex = Object.fromEntries(sightClasses.map((kind, index) => [kind, index])) as Record<SightClass, number>;
const kinds = sightClasses.length + 1;

/** Members who hold the same roles see alike, their teams aside. */
interface Group { before: Reach[]; after: Reach[]; members: RehearsedMember[]; seen: number; documents: number; sees: Int8Array }

/** How a kind of version changes for a group: 0 not, 1 all gain, -1 all lose, 2 and -2 the same for those outside the team. */
function shiftOf(before: Reach, after: Reach): number {
  if (before === after) return 0;
  if (before === 'none') return after === 'all' ? 1 : 0;
  if (after === 'none') return before === 'all' ? -1 : 0;
  return after === 'all' ? 2 : -2;
}

/** Counts per member what their team lets them see anyway. */
interface TeamTally { gained: number; lost: number; gainedDocuments: number; lostDocuments: number }

/**
 * Rehearses a change of rules over a library, one document at a time in one pass; it holds counts and the wanted items, not the
 * library. `result` tells exactly what applying the rules at `now` does.
 */
export class Rehearsing {
  private readonly limits: Limits;
  private readonly groups: Group[] = [];
  private readonly groupOf = new Map<string, Group>();
  private readonly team = new Map<string, TeamTally>();
  private readonly totals: { gains: Map<Group, [versions: number, documents: number]>; losses: Map<Group, [number, number]> } = { gains: new Map(), losses: new Map() };
  private readonly answer: Rehearsal;
  private readonly endsRuns: boolean;
  private readonly leavesNone: boolean;
  private readonly seesChange: boolean;
  private readonly facts = { openDrafts: 0, withoutApprover: 0, larger: 0 };

  constructor(private readonly before: Rulebook, private readonly after: Rulebook, members: readonly RehearsedMember[], private readonly now: Date, private readonly wanted: Wanted) {
    this.limits = limitsAt(after, now);
    this.leavesNone = before.numbering === 'none' && after.numbering !== 'none';
    this.endsRuns = !after.approval.on || this.leavesNone;
    for (const member of members) this.addMember(member);
    this.seesChange = this.groups.some(({ sees }) => sees.some((shift) => shift !== 0));
    this.answer = {
      documents: 0, versions: 0, bytesKept: 0,
      thinned: { versions: 0, documents: 0, bytes: 0, items: [] }, sight: { gains: [], losses: [], items: [] },
      custody: { total: 0, items: [] }, approvals: { total: 0, items: [] }, numbers: { total: 0, items: [] }, notes: [],
    };
  }

  private addMember(member: RehearsedMember): void {
    const [before, after] = [this.before, this.after].map((rules) => reach(member.roles, rules)) as [Record<SightClass, Reach>, Record<SightClass, Reach>];
    const [b, a] = [sightClasses.map((kind) => before[kind]), sightClasses.map((kind) => after[kind])];
    b.push(before.inApproval);
    a.push(after.draft);
    const sees = Int8Array.from(b, (reached, index) => shiftOf(reached, a[index] as Reach));
    let group = this.groups.find((other) => other.sees.every((shift, index) => shift === sees[index]));
    if (!group) this.groups.push(group = { before: b, after: a, members: [], seen: 0, documents: 0, sees });
    group.members.push(member);
    this.groupOf.set(member.id, group);
  }

  /** Takes one document into account. */
  document(document: RehearsedDocument): void {
    const { answer } = this;
    answer.documents += 1;
    answer.versions += document.versions.length;
    const then = this.afterRules(document);
    const going = limitsAnything(this.limits) ? versionsToThin(then.versions, then.protection, this.limits) : [];
    const gone = new Map(going.map(({ id, rule }) => [id, rule]));
    this.countThinned(document, gone);
    if (this.seesChange) this.countSight(document, gone);
    this.countActs(document, then);
  }

  /** The document right after the rules are applied, before thinning: runs ended, eras opened. */
  private afterRules(document: RehearsedDocument): { versions: readonly RehearsedVersion[]; protection: Protection; highest: VersionNumber; presentEra: number; becomes: string | null; endsRun: boolean } {
    const latest = document.versions.at(-1) as RehearsedVersion;
    const endsRun = this.endsRuns && document.waitingFor !== null;
    const baseIds = [...(document.custody ? [document.custody.baseId] : []), ...document.setAsideBaseIds];
    const same = { protection: { latestId: latest.id, baseIds }, highest: document.highest, presentEra: document.presentEra, becomes: null, endsRun };
    const ends = (version: RehearsedVersion): RehearsedVersion => (endsRun && version.state === 'inApproval' ? { ...version, state: 'draft' } : version);
    if (!this.leavesNone || latest.numbering !== 'none') return { ...same, versions: endsRun ? document.versions.map(ends) : document.versions };
    return { ...same, ...this.openedEra(document, latest, ends) };
  }

  private openedEra(document: RehearsedDocument, latest: RehearsedVersion, ends: (version: RehearsedVersion) => RehearsedVersion): { versions: RehearsedVersion[]; protection: Protection; highest: VersionNumber; presentEra: number; becomes: string | null } {
    const numbering = this.after.numbering as Exclude<Numbering, 'none'>;
    const presentEra = document.presentEra + 1;
    const at = this.now.getTime();
    const versions = document.versions.map((version) => {
      const stands = version.standing === 'inForce' || version.standing === 'scheduled';
      return stands ? { ...version, standing: 'superseded' as const, supersededAt: at } : ends(version);
    });
    let highest: VersionNumber | null = null;
    const opens = (version: RehearsedVersion, level: 'minor' | 'major', standing: 'inForce' | 'scheduled' | null): void => {
      highest = numberToCome(numbering, highest, level, presentEra);
      versions.push({ ...version, ...highest, id: `${version.id} of the new era`, state: standing ? 'published' : 'draft', standing, madeAt: at, supersededAt: null, sheltered: false, thinned: false });
    };
    for (const version of document.versions) if (version.standing === 'inForce') opens(version, 'major', 'inForce');
    for (const version of document.versions) if (version.standing === 'scheduled') opens(version, 'major', 'scheduled');
    if (latest.state !== 'published' && latest.state !== 'withdrawn') opens(latest, 'minor', null);
    const newest = versions.at(-1) as RehearsedVersion;
    const becomes = highest && formatLabel(highest, presentEra);
    return { versions, highest: highest ?? document.highest, presentEra: highest ? presentEra : document.presentEra, becomes, protection: { latestId: newest.id, baseIds: [...(document.custody ? [newest.id] : []), ...document.setAsideBaseIds] } };
  }

  private countThinned(document: RehearsedDocument, gone: ReadonlyMap<string, KeepRule>): void {
    const { thinned } = this.answer;
    const { offset, limit, documents } = this.wanted;
    for (const version of document.versions) {
      if (!version.thinned) this.answer.bytesKept += version.size;
      if (this.after.maxFileBytes !== null && version.size > this.after.maxFileBytes) this.facts.larger += 1;
      const rule = gone.get(version.id);
      if (rule === undefined) continue;
      if (documents ? documents.has(document.id) : thinned.versions >= offset && thinned.items.length < limit) {
        thinned.items.push({ document: nameOf(document), versionId: version.id, label: formatLabel(version, document.presentEra), size: version.size, rule });
      }
      thinned.versions += 1;
      thinned.bytes += version.size;
    }
    if (gone.size > 0) thinned.documents += 1;
  }

  /** Counts, for every group, the versions it gains or loses; and for members of a version's team what they see either way. */
  private countSight(document: RehearsedDocument, gone: ReadonlyMap<string, KeepRule>): void {
    const counts = new Int32Array(kinds);
    const teamCounts = new Map<string, Int32Array>();
    const standing = [document.ownerId, ...document.coAuthorIds, ...(document.custody ? [document.custody.holderId] : [])];
    const listed = this.wanted.sightOf;
    for (const version of document.versions) {
      if (version.thinned || gone.has(version.id)) continue;
      const kind = this.endsRuns && document.waitingFor && version.state === 'inApproval' ? ended : classIndex[sightClass(version)];
      counts[kind] = (counts[kind] ?? 0) + 1;
      for (const id of new Set([...standing, version.authorId])) {
        if (!this.groupOf.has(id)) continue;
        let own = teamCounts.get(id);
        if (!own) teamCounts.set(id, own = new Int32Array(kinds));
        own[kind] = (own[kind] ?? 0) + 1;
      }
      if (listed) this.listSight(document, version, kind, standing, listed);
    }
    for (const group of this.groups) {
      const [gained, lost] = [sumWhere(counts, group.sees, (shift) => shift > 0), sumWhere(counts, group.sees, (shift) => shift < 0)];
      if (gained > 0) addTo(this.totals.gains, group, gained);
      if (lost > 0) addTo(this.totals.losses, group, lost);
    }
    for (const [id, own] of teamCounts) {
      const { sees } = this.groupOf.get(id) as Group;
      const [gained, lost] = [sumWhere(own, sees, (shift) => shift === 2), sumWhere(own, sees, (shift) => shift === -2)];
      if (gained + lost === 0) continue;
      let tally = this.team.get(id);
      if (!tally) this.team.set(id, tally = { gained: 0, lost: 0, gainedDocuments: 0, lostDocuments: 0 });
      tally.gained += gained;
      tally.lost += lost;
      if (gained > 0 && gained === sumWhere(counts, sees, (shift) => shift > 0)) tally.gainedDocuments += 1;
      if (lost > 0 && lost === sumWhere(counts, sees, (shift) => shift < 0)) tally.lostDocuments += 1;
    }
  }

  private sightPassed = 0;
  private listSight(document: RehearsedDocument, version: RehearsedVersion, kind: number, standing: readonly string[], listed: NonNullable<Wanted['sightOf']>): void {
    const group = this.groups.find(({ members }) => members.some(({ account }) => account === listed.account));
    const member = group?.members.find(({ account }) => account === listed.account);
    const shift = group?.sees[kind] ?? 0;
    if (!member || (listed.change === 'gains' ? shift <= 0 : shift >= 0)) return;
    if (Math.abs(shift) === 2 && (standing.includes(member.id) || version.authorId === member.id)) return;
    this.sightPassed += 1;
    const { items } = this.answer.sight;
    if (this.sightPassed <= this.wanted.offset || items.length >= this.wanted.limit) return;
    items.push({ document: nameOf(document), versionId: version.id, label: formatLabel(version, document.presentEra), state: version.state });
  }

  /** Check-outs, approvals and the numbers to come. */
  private countActs(document: RehearsedDocument, then: ReturnType<Rehearsing['afterRules']>): void {
    const { before, after, answer } = this;
    const latest = document.versions.at(-1) as RehearsedVersion;
    if (latest.state === 'draft' || latest.state === 'rejected') this.facts.openDrafts += 1;
    if (document.approverIds.length === 0) this.facts.withoutApprover += 1;
    const numbers = labelsToCome({ rules: before, highest: document.highest, presentEra: document.presentEra });
    const later = labelsToCome({ rules: after, highest: then.highest, presentEra: then.presentEra });
    if (then.becomes !== null || numbers.minor !== later.minor || numbers.major !== later.major || numbers.submittedAs !== later.submittedAs) {
      const item = { document: nameOf(document), now: numbers, then: later, becomes: then.becomes };
      this.put(answer.numbers, item);
      const base = document.custody && document.versions.find(({ id }) => id === document.custody?.baseId);
      if (document.custody && base) this.put(answer.custody, { ...item, holder: document.custody.holderName, base: formatLabel(base, document.presentEra) });
    }
    if (then.endsRun) this.put(answer.approvals, { document: nameOf(document), label: formatLabel(latest, document.presentEra), waitingFor: document.waitingFor ?? [] });
  }

  private put<T>(list: { total: number; items: T[] }, item: T): void {
    if (list.total >= this.wanted.offset && list.items.length < this.wanted.limit) list.items.push(item);
    list.total += 1;
  }

  /** What was found. */
  result(): Rehearsal {
    for (const group of this.groups) {
      for (const member of group.members) {
        const team = this.team.get(member.id) ?? { gained: 0, lost: 0, gainedDocuments: 0, lostDocuments: 0 };
        const [gains, gainedIn] = this.totals.gains.get(group) ?? [0, 0];
        const [losses, lostIn] = this.totals.losses.get(group) ?? [0, 0];
        const { account, name } = member;
        if (gains > team.gained) this.answer.sight.gains.push({ account, name, versions: gains - team.gained, documents: gainedIn - team.gainedDocuments });
        if (losses > team.lost) this.answer.sight.losses.push({ account, name, versions: losses - team.lost, documents: lostIn - team.lostDocuments });
      }
    }
    const byName = (a: SightShift, b: SightShift): number => a.name.localeCompare(b.name) || (a.account < b.account ? -1 : 1);
    this.answer.sight.gains.sort(byName);
    this.answer.sight.losses.sort(byName);
    this.answer.notes = notesOn(this.before, this.after, { ...this.facts, documents: this.answer.documents, bytesAfter: this.answer.bytesKept - this.answer.thinned.bytes });
    return this.answer;
  }
}

const nameOf = ({ id, number, title }: RehearsedDocument): DocumentName => ({ id, number, title });

function sumWhere(counts: Int32Array, sees: Int8Array, holds: (shift: number) => boolean): number {
  let sum = 0;
  for (let kind = 0; kind < kinds; kind += 1) if (holds(sees[kind] as number)) sum += counts[kind] as number;
  return sum;
}

function addTo(totals: Map<Group, [number, number]>, group: Group, versions: number): void {
  const known = totals.get(group) ?? [0, 0];
  totals.set(group, [known[0] + versions, known[1] + 1]);
}
