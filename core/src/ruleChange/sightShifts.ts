import { circleOf } from '../acts/state.ts';
import type { Role } from '../rules/roles.ts';
import type { Rulebook } from '../rules/rulebook.ts';
import { type Reach, reach, sightClass, sightClasses } from '../rules/sight.ts';
import type { RehearsedDocument, RehearsedVersion } from './rehearsed.ts';

/** A member of the library whose rules change. */
export interface RehearsedMember {
  id: string;
  account: string;
  name: string;
  roles: ReadonlySet<Role>;
}

/** How many versions, in how many documents, a member gains or loses. */
export interface SightShift {
  account: string;
  name: string;
  versions: number;
  documents: number;
}

/** One version that the member asked about gains or loses. */
export interface SightOf {
  account: string;
  change: 'gains' | 'losses';
}

/** Sight's classes, and one more: versions whose approval the new rules end, drafts again. */
const endedKind = 'ended';
const kinds = [...sightClasses, endedKind] as const;
type Kind = (typeof kinds)[number];

/**
 * How a kind of version changes for somebody: all of them, or those outside their team only, are gained or
 * lost.
 */
type Shift = 'gained' | 'gainedOutsideTeam' | 'lost' | 'lostOutsideTeam' | null;
const isGain = (shift: Shift): boolean => shift === 'gained' || shift === 'gainedOutsideTeam';
const isLoss = (shift: Shift): boolean => shift === 'lost' || shift === 'lostOutsideTeam';
/** What one's own team lets one see either way. */
const seenByTeam = (shift: Shift): boolean => shift === 'gainedOutsideTeam' || shift === 'lostOutsideTeam';

function shiftOf(before: Reach, after: Reach): Shift {
  if (before === after) return null;
  if (before === 'none') return after === 'all' ? 'gained' : null;
  if (after === 'none') return before === 'all' ? 'lost' : null;
  return after === 'all' ? 'gainedOutsideTeam' : 'lostOutsideTeam';
}

/** Members who hold the same roles see alike, their teams aside. */
interface Group {
  shifts: Record<Kind, Shift>;
  members: RehearsedMember[];
  gained: Count;
  lost: Count;
}
interface Count {
  versions: number;
  documents: number;
}
type Counts = Record<Kind, number>;

const none = (): Count => ({ versions: 0, documents: 0 });
const noCounts = (): Counts => Object.fromEntries(kinds.map((kind) => [kind, 0])) as Counts;
const sumOf = (counts: Counts, holds: (kind: Kind) => boolean): number =>
  kinds.reduce((sum, kind) => (holds(kind) ? sum + counts[kind] : sum), 0);

/** Counts, over a library, who gains and who loses sight of what; holds counts, not versions. */
export class SightShifts {
  private readonly groups: Group[] = [];
  private readonly groupOf = new Map<string, Group>();
  /** Per member, what their team lets them see anyway. */
  private readonly team = new Map<string, { gained: Count; lost: Count }>();
  /** Per member, of documents that are kept to them among others. */
  private readonly limited = new Map<string, { gained: Count; lost: Count }>();

  constructor(
    private readonly before: Rulebook,
    private readonly after: Rulebook,
    members: readonly RehearsedMember[],
  ) {
    for (const member of members) this.addMember(member);
  }

  /** Whether anybody's sight changes at all. */
  get any(): boolean {
    return this.groups.some(({ shifts }) => kinds.some((kind) => shifts[kind] !== null));
  }

  private addMember(member: RehearsedMember): void {
    const [before, after] = [reach(member.roles, this.before), reach(member.roles, this.after)];
    const shifts = Object.fromEntries(
      sightClasses.map((kind) => [kind, shiftOf(before[kind], after[kind])]),
    ) as Record<Kind, Shift>;
    shifts[endedKind] = shiftOf(before.inApproval, after.draft);
    const alike = this.groups.find((group) => kinds.every((kind) => group.shifts[kind] === shifts[kind]));
    const group: Group = alike ?? { shifts, members: [], gained: none(), lost: none() };
    if (!alike) this.groups.push(group);
    group.members.push(member);
    this.groupOf.set(member.id, group);
  }

  /**
   * Takes the versions of a document into account.
   * @param counted those whose content is there before and after
   * @param endsRun whether the new rules end the document's approval
   */
  count(document: RehearsedDocument, counted: readonly RehearsedVersion[], endsRun: boolean): void {
    const counts = noCounts();
    const teamCounts = new Map<string, Counts>();
    const standing = teamOf(document);
    for (const version of counted) {
      const kind = kindOf(version, endsRun);
      counts[kind] += 1;
      for (const id of new Set([...standing, version.authorId])) {
        if (!this.groupOf.has(id)) continue;
        const own = teamCounts.get(id) ?? noCounts();
        own[kind] += 1;
        teamCounts.set(id, own);
      }
    }
    const circle = circleOf(document);
    if (circle) {
      for (const id of circle) this.countLimited(id, counts, teamCounts.get(id) ?? noCounts());
      return;
    }
    for (const group of this.groups) {
      addTo(
        group.gained,
        sumOf(counts, (kind) => isGain(group.shifts[kind])),
      );
      addTo(
        group.lost,
        sumOf(counts, (kind) => isLoss(group.shifts[kind])),
      );
    }
    for (const [id, own] of teamCounts) this.countTeam(id, own, counts);
  }

  private countTeam(id: string, own: Counts, all: Counts): void {
    const shifts = this.groupOf.get(id)?.shifts;
    if (!shifts) return;
    const tally = this.team.get(id) ?? { gained: none(), lost: none() };
    for (const [total, holds] of eitherWay(tally)) {
      const anyway = seenAnyway(own, shifts, holds);
      total.versions += anyway;
      if (anyway > 0 && anyway === sumOf(all, (kind) => holds(shifts[kind]))) total.documents += 1;
    }
    this.team.set(id, tally);
  }

  private countLimited(id: string, all: Counts, own: Counts): void {
    const shifts = this.groupOf.get(id)?.shifts;
    if (!shifts) return;
    const tally = this.limited.get(id) ?? { gained: none(), lost: none() };
    for (const [total, holds] of eitherWay(tally)) {
      addTo(total, sumOf(all, (kind) => holds(shifts[kind])) - seenAnyway(own, shifts, holds));
    }
    this.limited.set(id, tally);
  }

  /** Whether a version is one that the member asked about gains or loses. */
  concerns(
    listed: SightOf,
    document: RehearsedDocument,
    version: RehearsedVersion,
    endsRun: boolean,
  ): boolean {
    const group = this.groups.find(({ members }) =>
      members.some(({ account }) => account === listed.account),
    );
    const member = group?.members.find(({ account }) => account === listed.account);
    if (!group || !member || circleOf(document)?.includes(member.id) === false) return false;
    const shift = group.shifts[kindOf(version, endsRun)];
    if (!(listed.change === 'gains' ? isGain(shift) : isLoss(shift))) return false;
    return !(seenByTeam(shift) && [...teamOf(document), version.authorId].includes(member.id));
  }

  /** Who gains and who loses, by name. */
  result(): { gains: SightShift[]; losses: SightShift[] } {
    const answer: { gains: SightShift[]; losses: SightShift[] } = { gains: [], losses: [] };
    for (const group of this.groups) {
      for (const { id, account, name } of group.members) {
        const team = this.team.get(id) ?? { gained: none(), lost: none() };
        const limited = this.limited.get(id) ?? { gained: none(), lost: none() };
        for (const [list, how] of [
          [answer.gains, 'gained'],
          [answer.losses, 'lost'],
        ] as const) {
          const versions = group[how].versions - team[how].versions + limited[how].versions;
          const documents = group[how].documents - team[how].documents + limited[how].documents;
          if (versions > 0) list.push({ account, name, versions, documents });
        }
      }
    }
    answer.gains.sort(byName);
    answer.losses.sort(byName);
    return answer;
  }
}

type Holds = (shift: Shift) => boolean;
const eitherWay = ({ gained, lost }: { gained: Count; lost: Count }): [Count, Holds][] => [
  [gained, isGain],
  [lost, isLoss],
];

/** Of one's own team's versions, those one sees before and after. */
const seenAnyway = (own: Counts, shifts: Record<Kind, Shift>, holds: Holds): number =>
  sumOf(own, (kind) => holds(shifts[kind]) && seenByTeam(shifts[kind]));

const byName = (a: SightShift, b: SightShift): number =>
  a.name.localeCompare(b.name) || (a.account < b.account ? -1 : 1);

function addTo(total: Count, versions: number): void {
  if (versions === 0) return;
  total.versions += versions;
  total.documents += 1;
}

/** Those of a document's team that belong to it whatever the version. */
const teamOf = ({ ownerId, coAuthorIds, custody }: RehearsedDocument): string[] => [
  ownerId,
  ...coAuthorIds,
  ...(custody ? [custody.holderId] : []),
];

const kindOf = (version: RehearsedVersion, endsRun: boolean): Kind =>
  endsRun && version.state === 'inApproval' ? endedKind : sightClass(version);
