import { type KeepRule, type Limits, limitsAnything, limitsAt, versionsToThin } from '../rules/keeping.ts';
import { labelsToCome, type ToCome } from '../rules/levels.ts';
import { formatLabel } from '../rules/numbering.ts';
import type { Rulebook } from '../rules/rulebook.ts';
import { type RuleNote, notesOn } from './notes.ts';
import {
  type AfterRules,
  afterRules,
  latestOf,
  type RehearsedDocument,
  type RehearsedVersion,
  untouchedBy,
} from './rehearsed.ts';
import { type RehearsedMember, type SightOf, type SightShift, SightShifts } from './sightShifts.ts';

interface DocumentName {
  id: string;
  number: string;
  title: string;
}
/** A version that would be thinned, and by which rule. */
export interface ThinItem {
  document: DocumentName;
  versionId: string;
  label: string;
  size: number;
  rule: KeepRule;
}
/** A version that a member would gain or lose. */
export interface SightItem {
  document: DocumentName;
  versionId: string;
  label: string;
  state: string;
}
/** A document whose numbers to come change; `becomes` is the number a new era opens with. */
export interface NumberItem {
  document: DocumentName;
  now: ToCome;
  then: ToCome;
  becomes: string | null;
}
/** A check-out whose numbers to come change. */
export interface CustodyItem extends NumberItem {
  holder: string;
  base: string;
}
/** An approval that ends. */
export interface ApprovalItem {
  document: DocumentName;
  label: string;
  waitingFor: readonly string[];
}

/**
 * What a change of rules would do to a library. Lists hold what was asked for; the counts are of everything.
 */
export interface Rehearsal {
  documents: number;
  versions: number;
  bytesKept: number;
  thinned: { versions: number; documents: number; bytes: number; items: ThinItem[] };
  sight: { gains: SightShift[]; losses: SightShift[]; items: SightItem[] };
  custody: { total: number; items: CustodyItem[] };
  approvals: { total: number; items: ApprovalItem[] };
  numbers: { total: number; items: NumberItem[] };
  notes: RuleNote[];
}

/**
 * Which items to collect: a part of each list, or of one list; `documents` narrows the thinned ones, not
 * their counts.
 */
export interface Wanted {
  offset: number;
  limit: number;
  documents?: ReadonlySet<string> | undefined;
  /** Versions this member gains or loses. */
  sightOf?: SightOf | undefined;
}

/** A change of rules to be rehearsed at a moment. */
export interface Proposal {
  before: Rulebook;
  after: Rulebook;
  members: readonly RehearsedMember[];
  now: Date;
  wanted: Wanted;
}

/**
 * Rehearses a change of rules over a library, one document at a time in one pass; it holds counts and the
 * wanted items, not the library. `result` tells exactly what applying the rules at `now` does.
 */
export class Rehearsing {
  private readonly limits: Limits;
  private readonly sight: SightShifts;
  private readonly seesChange: boolean;
  private readonly answer: Rehearsal;
  private readonly facts = { openDrafts: 0, withoutApprover: 0, larger: 0 };
  private sightPassed = 0;

  constructor(private readonly proposal: Proposal) {
    const { before, after, members, now } = proposal;
    this.limits = limitsAt(after, now);
    this.sight = new SightShifts(before, after, members);
    this.seesChange = this.sight.any;
    this.answer = {
      documents: 0,
      versions: 0,
      bytesKept: 0,
      thinned: { versions: 0, documents: 0, bytes: 0, items: [] },
      sight: { gains: [], losses: [], items: [] },
      custody: { total: 0, items: [] },
      approvals: { total: 0, items: [] },
      numbers: { total: 0, items: [] },
      notes: [],
    };
  }

  /** Takes one document into account. */
  document(document: RehearsedDocument): void {
    const { answer } = this;
    answer.documents += 1;
    answer.versions += document.versions.length;
    const then = this.afterRules(document);
    const endsRun = this.endsRun(document);
    const protection = { latestId: then.latestId, baseIds: then.baseIds };
    const going = limitsAnything(this.limits) ? versionsToThin(then.versions, protection, this.limits) : [];
    const gone = new Map(going.map(({ id, rule }) => [id, rule]));
    this.countThinned(document, gone);
    if (this.seesChange) this.countSight(document, gone, endsRun);
    this.countActs(document, then, endsRun);
  }

  private endsRun(document: RehearsedDocument): boolean {
    const { before, after } = this.proposal;
    const leavesNone = before.numbering === 'none' && after.numbering !== 'none';
    return document.waitingFor !== null && (leavesNone || !after.approval.on);
  }

  private afterRules(document: RehearsedDocument): AfterRules {
    const { before, after, now } = this.proposal;
    const leavesNone = before.numbering === 'none' && after.numbering !== 'none';
    const concerned = leavesNone || this.endsRun(document);
    return concerned ? afterRules(document, before, after, now) : untouchedBy(document);
  }

  private countThinned(document: RehearsedDocument, gone: ReadonlyMap<string, KeepRule>): void {
    const { thinned } = this.answer;
    const { maxFileBytes } = this.proposal.after;
    for (const version of document.versions) {
      if (!version.thinned) this.answer.bytesKept += version.size;
      if (maxFileBytes !== null && version.size > maxFileBytes) this.facts.larger += 1;
      const rule = gone.get(version.id);
      if (rule === undefined) continue;
      if (this.wantsThinned(document)) {
        const { id: versionId, size } = version;
        const label = formatLabel(version, document.presentEra);
        thinned.items.push({ document: nameOf(document), versionId, label, size, rule });
      }
      thinned.versions += 1;
      thinned.bytes += version.size;
    }
    if (gone.size > 0) thinned.documents += 1;
  }

  private wantsThinned(document: RehearsedDocument): boolean {
    const { offset, limit, documents } = this.proposal.wanted;
    const { versions, items } = this.answer.thinned;
    return documents ? documents.has(document.id) : versions >= offset && items.length < limit;
  }

  private countSight(
    document: RehearsedDocument,
    gone: ReadonlyMap<string, KeepRule>,
    endsRun: boolean,
  ): void {
    const kept = document.versions.filter((version) => !version.thinned && !gone.has(version.id));
    this.sight.count(document, kept, endsRun);
    const { sightOf } = this.proposal.wanted;
    if (!sightOf) return;
    for (const version of kept) {
      if (this.sight.concerns(sightOf, document, version, endsRun)) this.listSight(document, version);
    }
  }

  private listSight(document: RehearsedDocument, version: RehearsedVersion): void {
    const { offset, limit } = this.proposal.wanted;
    const { items } = this.answer.sight;
    this.sightPassed += 1;
    if (this.sightPassed <= offset || items.length >= limit) return;
    const { id: versionId, state } = version;
    items.push({
      document: nameOf(document),
      versionId,
      label: formatLabel(version, document.presentEra),
      state,
    });
  }

  /** Check-outs, approvals and the numbers to come. */
  private countActs(document: RehearsedDocument, then: AfterRules, endsRun: boolean): void {
    const { answer } = this;
    const latest = latestOf(document);
    if (latest.state === 'draft' || latest.state === 'rejected') this.facts.openDrafts += 1;
    if (document.approverIds.length === 0) this.facts.withoutApprover += 1;
    this.countNumbers(document, then);
    if (!endsRun) return;
    const label = formatLabel(latest, document.presentEra);
    this.put(answer.approvals, {
      document: nameOf(document),
      label,
      waitingFor: document.waitingFor ?? [],
    });
  }

  private countNumbers(document: RehearsedDocument, after: AfterRules): void {
    const { proposal, answer } = this;
    const now = labelsToCome(proposal.before, document.highest, document.presentEra);
    const then = labelsToCome(proposal.after, after.highest, after.presentEra);
    const same = now.minor === then.minor && now.major === then.major && now.submittedAs === then.submittedAs;
    if (same && !after.opened) return;
    const becomes = after.opened ? formatLabel(after.highest, after.presentEra) : null;
    const item = { document: nameOf(document), now, then, becomes };
    this.put(answer.numbers, item);
    const { custody, versions, presentEra } = document;
    const base = custody && versions.find(({ id }) => id === custody.baseId);
    if (!custody || !base) return;
    this.put(answer.custody, { ...item, holder: custody.holderName, base: formatLabel(base, presentEra) });
  }

  private put<T>(list: { total: number; items: T[] }, item: T): void {
    const { offset, limit } = this.proposal.wanted;
    if (list.total >= offset && list.items.length < limit) list.items.push(item);
    list.total += 1;
  }

  /** What was found. */
  result(): Rehearsal {
    const { before, after } = this.proposal;
    const { documents, bytesKept, thinned, sight } = this.answer;
    const bytesAfter = bytesKept - thinned.bytes;
    return {
      ...this.answer,
      sight: { ...this.sight.result(), items: sight.items },
      notes: notesOn(before, after, { ...this.facts, documents, bytesAfter }),
    };
  }
}

const nameOf = ({ id, number, title }: RehearsedDocument): DocumentName => ({ id, number, title });
