import { isRefusal, type Refusal } from '../document/refusal.ts';
import type { ContentFacts, Fields, Level, Version } from '../document/version.ts';
import type { ApprovalRun, Approver } from '../rules/approvalRun.ts';
import type { Actor } from '../rules/roles.ts';
import { completeRulebook, type Rulebook, type RulebookChoices } from '../rules/rulebook.ts';
import { comeIntoForce } from './comeIntoForce.ts';
import { createDocument } from './create.ts';
import { planThinning } from './planThinning.ts';
import { openDocument, type Opening, reduce, type Reduced } from './reduce.ts';
import {
  type Change,
  type Decision,
  type DocumentState,
  labelIn,
  type Notice,
  type Outcome,
} from './state.ts';

/** An hour in milliseconds: the time one act takes here. */
const hour = 3_600_000;

/** Where a history begins: who may be asked to decide, and when. */
export interface Beginning {
  approvers?: readonly Approver[];
  start?: number;
}

/**
 * A document that carries out core's decisions in memory, as the store does in the database: for rehearsing
 * rules on a sample, and for tests. Thinning runs after every version that is added, as it does in a library.
 */
export class History {
  versions: Version[] = [];
  rules: Rulebook;
  readonly ledger: string[] = [];
  readonly notices: Notice[] = [];
  readonly approvers: readonly Approver[];
  private present: DocumentState | null = null;
  private clock: number;

  constructor(
    rules: RulebookChoices,
    readonly owner: Actor,
    { approvers = [], start = Date.UTC(2026, 0, 5, 8) }: Beginning = {},
  ) {
    this.rules = completeRulebook(rules);
    this.approvers = approvers;
    this.clock = start;
  }

  get now(): Date {
    return new Date(this.clock);
  }

  /** Lets time pass; what falls due comes into force. */
  pass(milliseconds: number): this {
    this.clock += milliseconds;
    const due = this.present && comeIntoForce(this.present, this.now);
    if (due) this.keep(reduce(this.state, due.changes, this.world));
    return this;
  }

  get state(): DocumentState {
    if (!this.present) throw new Error('the document has no version yet');
    return { ...this.present, rules: this.rules };
  }

  get presentEra(): number {
    return this.present?.presentEra ?? 1;
  }

  get approval(): ApprovalRun | null {
    return this.present?.approval ?? null;
  }

  get labels(): string[] {
    return this.versions.map((version) => this.label(version));
  }

  /** Labels of the versions whose content is there. */
  get kept(): string[] {
    return this.versions.filter(({ thinned }) => !thinned).map((version) => this.label(version));
  }

  get inForce(): string | null {
    const { inForce } = this.state;
    return inForce && this.label(inForce);
  }

  label(version: Version): string {
    return labelIn(this, version);
  }

  /** @throws Error where there is no such version */
  version(label: string): Version {
    const found = this.versions.find((version) => this.label(version) === label);
    if (!found) throw new Error(`no version ${label}`);
    return found;
  }

  /** Registers the document; a refusal is thrown. */
  create(content: ContentFacts, fields: Fields, level?: Level): this {
    const opening: Opening = {
      id: 'doc',
      number: 'OP-001',
      owner: this.owner,
      coAuthorIds: [],
      approvers: this.approvers,
      rules: this.rules,
      bytesKept: 0,
    };
    const decision = createDocument(
      opening,
      this.owner,
      { content, fields, comment: '', level, templateVersionId: null },
      this.now,
    );
    if (isRefusal(decision)) throw new Error(`${decision.code}: ${decision.reason}`);
    this.keep(openDocument(opening, decision.changes, this.world));
    this.follow(decision);
    return this;
  }

  /** Carries an outcome out; a refusal is thrown. */
  do(outcome: Outcome): this {
    if (isRefusal(outcome)) throw new Error(`${outcome.code}: ${outcome.reason}`);
    this.carryOut(outcome);
    return this;
  }

  /** Carries an outcome out unless it is a refusal, which is returned. */
  attempt(outcome: Outcome): Refusal | null {
    if (isRefusal(outcome)) return outcome;
    this.carryOut(outcome);
    return null;
  }

  /**
   * Thins by the present rules, as after a change of rules or in the sweep. Returns the labels of what went.
   */
  thin(): string[] {
    const decision = planThinning(this.state, this.versions, this.now);
    if (!decision) return [];
    const { versions } = this.keep(reduce(this.state, decision.changes, this.world));
    return versions.map(({ after }) => this.label(after));
  }

  private get world(): { newId(): string; versions: readonly Version[] } {
    let sequence = this.versions.length;
    const newId = (): string => {
      sequence += 1;
      return `v${sequence}`;
    };
    return { newId, versions: this.versions };
  }

  private carryOut(decision: Decision): void {
    this.keep(reduce(this.state, decision.changes, this.world));
    this.follow(decision);
  }

  private follow({ changes, ledger, notices = [] }: Decision): void {
    if (ledger) this.ledger.push(ledger.act);
    this.notices.push(...notices);
    if (changes.some(callsForThinning)) this.thin();
    this.pass(hour);
  }

  private keep(reduced: Reduced): Reduced {
    const after = new Map(reduced.versions.map((change) => [change.after.id, change.after]));
    const added = reduced.versions.flatMap((change) => (change.before ? [] : [change.after]));
    this.versions = [...this.versions.map((version) => after.get(version.id) ?? version), ...added];
    this.present = reduced.state;
    return reduced;
  }
}

/** Whether a change may have made earlier versions superfluous. */
export const callsForThinning = ({ kind }: Change): boolean =>
  kind === 'addVersion' || kind === 'comeIntoForce' || kind === 'reinstate';
