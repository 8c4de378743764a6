import type { ApprovalRun, Approver } from '../approval/run.ts';
import { keep } from '../keeping/keep.ts';
import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import { completeRulebook, type Rulebook, type RulebookChoices } from '../policy/rulebook.ts';
import { createDocument } from '../versions/create.ts';
import { type Change, type Custody, type Decision, type DocumentState, newVersion, type Outcome } from '../versions/document.ts';
import { dueChanges } from '../versions/newVersion.ts';
import { isRefusal, type Refusal } from '../versions/refusal.ts';
import type { ContentFacts, Fields, Level, Version } from '../versions/version.ts';

/** An hour in milliseconds: the time one act takes here. */
const hour = 3_600_000;

/**
 * A document that carries out core's decisions in memory, as the store does in the database: for rehearsing rules on a sample, and for
 * tests. Thinning runs after every version that is added, as it does in a library.
 */
export class History {
  versions: Version[] = [];
  rules: Rulebook;
  approval: ApprovalRun | null = null;
  ledger: string[] = [];
  private custody: Custody | null = null;
  /** Working copies taken out of lifted check-outs. */
  readonly setAside: { baseId: string; content: ContentFacts }[] = [];
  private clock: number;

  constructor(
    rules: RulebookChoices, readonly owner: Actor, readonly approvers: readonly Approver[] = [],
    private readonly names: ReadonlyMap<string, string> = new Map(), start = Date.UTC(2026, 0, 5, 8),
  ) {
    this.rules = completeRulebook(rules);
    this.clock = start;
  }

  get now(): Date { return new Date(this.clock); }
  /** Lets time pass; what falls due comes into force. */
  pass(milliseconds: number): this {
    this.clock += milliseconds;
    if (this.versions.length > 0) this.carryOut(dueChanges(this.state, this.now));
    return this;
  }

  get presentEra(): number { return this.versions.at(-1)?.era ?? 1; }
  get state(): DocumentState {
    const latest = this.versions.at(-1);
    if (!latest) throw new Error('the document has no version yet');
    const { era, major, minor, numbering } = latest;
    return {
      id: 'doc', number: 'OP-001', ownerId: this.owner.id, ownerName: this.owner.name, coAuthorIds: [], presentEra: this.presentEra, latest,
      inForce: this.versions.find(({ standing }) => standing === 'inForce') ?? null,
      scheduled: this.versions.filter(({ standing }) => standing === 'scheduled'),
      approval: this.approval, approvers: this.approvers, highest: { era, major, minor, numbering }, custody: this.custody, setAsideBaseIds: this.setAside.map(({ baseId }) => baseId), rules: this.rules,
      bytesKept: this.versions.reduce((sum, version) => sum + (version.thinned ? 0 : version.content.size), 0),
    };
  }

  get labels(): string[] { return this.versions.map((version) => this.label(version)); }
  /** Labels of the versions whose content is there. */
  get kept(): string[] { return this.versions.filter(({ thinned }) => !thinned).map((version) => this.label(version)); }
  get inForce(): string | null { const { inForce } = this.state; return inForce && this.label(inForce); }
  label(version: Version): string { return formatLabel(version, this.presentEra); }
  version(label: string): Version {
    const found = this.versions.find((version) => this.label(version) === label);
    if (!found) throw new Error(`no version ${label}`);
    return found;
  }

  /** Registers the document; a refusal is thrown. */
  create(content: ContentFacts, fields: Fields, level: Level = this.rules.numbering === 'stepped' ? 'minor' : 'major'): this {
    const decision = createDocument(this.rules, this.owner, {
      content, fields, comment: '', level, owner: this.owner, coAuthorIds: [], approvers: this.approvers, bytesKept: 0,
    }, this.now);
    if (isRefusal(decision)) throw new Error(`${decision.code}: ${decision.reason}`);
    const run: Change[] = decision.run ? [{ kind: 'openRun', run: decision.run }] : [];
    this.apply({ changes: [{ kind: 'addVersion', version: decision.version }, ...run], ledger: decision.ledger });
    return this;
  }

  /** Carries an outcome out; a refusal is thrown. */
  do(outcome: Outcome): this {
    if (isRefusal(outcome)) throw new Error(`${outcome.code}: ${outcome.reason}`);
    this.apply(outcome);
    return this;
  }

  /** Carries an outcome out unless it is a refusal, which is answered. */
  attempt(outcome: Outcome): Refusal | null {
    if (isRefusal(outcome)) return outcome;
    this.apply(outcome);
    return null;
  }

  /** Thins by the present rules, as after a change of rules or in the sweep. Answers what went. */
  thin(): string[] {
    const decision = keep(this.state, this.versions, this.now);
    if (decision) this.carryOut(decision.changes);
    return decision?.ledger ? (decision.ledger.facts['versions'] as string[]) : [];
  }

  private apply(decision: Decision): void {
    this.carryOut(decision.changes);
    if (decision.ledger) this.ledger.push(decision.ledger.act);
    if (decision.changes.some(({ kind }) => kind === 'addVersion' || kind === 'comeIntoForce')) this.thin();
    this.pass(hour);
  }

  private change(id: string, changed: Partial<Version>): void {
    this.versions = this.versions.map((version) => (version.id === id ? { ...version, ...changed } : version));
    if (this.custody?.base.id === id) this.custody = { ...this.custody, base: { ...this.custody.base, ...changed } };
  }

  private carryOut(changes: readonly Change[]): void {
    let added: Version | null = null;
    const named = (id: string): string => (id === newVersion ? (added as Version).id : id);
    const name = (id: string): string => this.names.get(id) ?? id.toUpperCase();
    for (const change of changes) {
      switch (change.kind) {
        case 'addVersion': {
          const sequence = this.versions.length + 1;
          added = { ...change.version, id: `v${sequence}`, sequence, thinned: null, sheltered: false, supersededAt: null };
          this.versions.push(added);
          break;
        }
        case 'setState': this.change(named(change.versionId), { state: change.state }); break;
        case 'schedule': this.change(named(change.versionId), { standing: 'scheduled', inForceFrom: change.inForceFrom }); break;
        case 'comeIntoForce': this.change(named(change.versionId), { standing: 'inForce', inForceFrom: change.at }); break;
        case 'supersede': this.change(named(change.versionId), { standing: 'superseded', supersededAt: change.at }); break;
        case 'openRun': this.approval = { ...change.run, versionId: named(change.run.versionId), submitterName: name(change.run.submitterId) }; break;
        case 'decidePost':
          if (this.approval) this.approval = { ...this.approval, posts: this.approval.posts.map((post) => (post.personId === change.personId ? { ...post, decision: change.decision, at: change.at, comment: change.comment } : post)) };
          break;
        case 'closeRun': this.approval = null; break;
        case 'thin': this.change(change.versionId, { thinned: change.thinned }); break;
        case 'recover': this.change(change.versionId, { thinned: null }); break;
        case 'shelter': this.change(change.versionId, { sheltered: change.sheltered }); break;
        case 'openCustody': {
          const base = this.versions.find(({ id }) => id === change.baseId) as Version;
          this.custody = { holderId: change.holderId, holderName: name(change.holderId), since: change.since, until: change.until, reason: change.reason, base, workingCopy: null, saves: 0, lastSavedAt: null, sitting: null };
          break;
        }
        case 'setUntil': if (this.custody) this.custody = { ...this.custody, until: change.until }; break;
        case 'saveWorkingCopy': if (this.custody) this.custody = { ...this.custody, workingCopy: change.content, saves: this.custody.saves + (change.replaces ? 0 : 1), lastSavedAt: change.at, sitting: change.sitting }; break;
        case 'emptyWorkingCopy': if (this.custody) this.custody = { ...this.custody, workingCopy: null, saves: 0, lastSavedAt: null, sitting: null }; break;
        case 'moveBase': if (this.custody && added) this.custody = { ...this.custody, base: added }; break;
        case 'setAside': if (this.custody?.workingCopy) this.setAside.push({ baseId: this.custody.base.id, content: this.custody.workingCopy }); break;
        case 'closeCustody': this.custody = null; break;
      }
    }
  }
}
