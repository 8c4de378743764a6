import { checkIn } from '../acts/checkIn.ts';
import { checkOut } from '../acts/checkOut.ts';
import { decide } from '../acts/decide.ts';
import { History } from '../acts/history.ts';
import { publish } from '../acts/publish.ts';
import { saveWorkingCopy } from '../acts/save.ts';
import type { Custody, Decision, DocumentState, Outcome } from '../acts/state.ts';
import { submit } from '../acts/submit.ts';
import { upload } from '../acts/upload.ts';
import { isRefusal } from '../document/refusal.ts';
import type { ContentFacts, State, Version } from '../document/version.ts';
import { type ApprovalRun, type Post, waitingFor } from '../rules/approvalRun.ts';
import { labelsToCome, type ToCome } from '../rules/levels.ts';
import type { Actor } from '../rules/roles.ts';
import type { Rulebook } from '../rules/rulebook.ts';

/** The parts of the Rulebook, in the order of a document's life. */
export const rulebookParts = ['numbered', 'held', 'decided', 'seen', 'kept'] as const;
export type RulebookPart = (typeof rulebookParts)[number];

/** One step of the sample document's life under the rules: what happened, and the document as it then is. */
export interface SampleStep {
  text: string;
  /** The parts of the Rulebook that act in this step, and the points they act on. */
  acts: Partial<Record<RulebookPart, string[]>>;
  versions: readonly Version[];
  presentEra: number;
  custody: Custody | null;
  approval: ApprovalRun | null;
  toCome: ToCome;
  now: Date;
}

const writer: Actor = { id: 'writer', name: 'The author', roles: new Set(['author']) };
const deciders: Actor[] = ['The first approver', 'The second approver'].map((name, index) => ({
  id: `approver ${index + 1}`,
  name,
  roles: new Set(['approver']),
}));
const owner = 'The owner';
const day = 86_400_000;

/**
 * Lives a sample document under the rules, by the same decisions that real documents are taken through:
 * registered, changed, decided, published four times, thinned. Every step can be drawn.
 */
export function sampleLife(rules: Rulebook): SampleStep[] {
  // The sample has its own people, who can always decide; who approves in the library is another matter.
  const sight = {
    ...rules.sight,
    inApproval: [...new Set([...rules.sight.inApproval, 'approver' as const])],
  };
  const life = new Life({ ...rules, sight, maxFileBytes: null, allowanceBytes: null });
  life.register();
  life.publish();
  for (const drafts of [2, 1, 2]) {
    for (let draft = 0; draft < drafts; draft += 1) life.change();
    if (rules.numbering === 'stepped') life.publish();
  }
  life.hold();
  return life.steps;
}

/** A decision that puts a version in force. */
const publishes = (outcome: Outcome): outcome is Decision =>
  !isRefusal(outcome) &&
  outcome.changes.some(({ kind }) => kind === 'addVersion' || kind === 'comeIntoForce');
const noRemark = { comment: '', inForceFrom: null };

class Life {
  readonly steps: SampleStep[] = [];
  private readonly history: History;
  private texts = 0;

  constructor(private readonly rules: Rulebook) {
    this.history = new History(rules, writer, { approvers: deciders });
  }

  register(): void {
    this.history.create(this.text(), { title: 'A sample' });
    const { latest } = this.history.state;
    this.record(`A new document starts at ${this.spoken(latest)}.`, {
      numbered: [latest.id],
      seen: [latest.id],
    });
    this.decideAll();
  }

  /** One change: checked out, saved and checked in, or uploaded where no check-out is asked for. */
  change(): void {
    this.history.pass(6 * day);
    const level = this.rules.numbering === 'stepped' ? 'minor' : 'major';
    const file = { level, comment: 'A change', confirm: [], keepFileName: false } as const;
    if (this.rules.custody === 'required') {
      this.checkOut();
      const content = this.text();
      const { state, now } = this.history;
      const outcome = checkIn(state, writer, { ...file, keepCheckedOut: false, content }, now);
      this.added(outcome, 'is checked in');
    } else {
      const content = this.text();
      const { state, now } = this.history;
      const outcome = upload(state, writer, { ...file, content, basedOn: state.latest }, now);
      this.added(outcome, 'is uploaded without a check-out');
    }
    this.decideAll();
  }

  /** The last step: the document is held while it is looked at. */
  hold(): void {
    this.history.pass(6 * day);
    this.checkOut();
  }

  private checkOut(): void {
    const { state, now } = this.history;
    const { latest } = state;
    this.history.do(checkOut(state, writer, { reason: null, until: null }, now));
    const { custodyDays } = this.rules;
    const until = custodyDays === null ? '' : `, for ${custodyDays} days at most`;
    this.record(
      `${writer.name} checks out ${this.spoken(latest)}; nobody else can change it${until && until.slice(1)}. The next version will be ${this.toCome()}.`,
      { held: [latest.id], numbered: [] },
    );
    if (this.rules.saves === 'drafts') this.savedAsDraft();
  }

  private savedAsDraft(): void {
    const content = this.text();
    this.history.do(saveWorkingCopy(this.history.state, writer, { content }, this.history.now));
    const { latest } = this.history.state;
    this.record(`A save is a draft version here: ${this.spoken(latest)}.`, {
      held: [latest.id],
      numbered: [latest.id],
    });
  }

  private added(outcome: Outcome, how: string): void {
    const before = new Set(this.history.kept);
    this.history.do(outcome);
    const { latest } = this.history.state;
    const states: Partial<Record<State, string>> = { inApproval: ', in approval', draft: ', a draft' };
    const state = states[latest.state] ?? '';
    this.record(`${sentence(this.spoken(latest))} ${how}${state}.${this.gone(before)}`, {
      numbered: [latest.id],
      seen: [latest.id],
      ...this.keptPart(before),
    });
  }

  /** Publishes the open draft: at once, or through the approvers. */
  publish(): void {
    if (this.history.state.latest.state !== 'draft') return;
    this.history.pass(2 * day);
    if (!this.rules.approval.on) {
      this.becomePublished(this.published(), writer.name);
      return;
    }
    const { state, now } = this.history;
    const { latest } = state;
    this.history.do(submit(state, writer, { version: latest, ...noRemark }, now));
    this.record(
      `${sentence(this.spoken(latest))} is submitted; ${this.waiting()} decides. Readers still see ${this.governing()}.`,
      { decided: [latest.id], seen: [latest.id] },
    );
    this.decideAll();
  }

  private published(): Outcome {
    const { state, now } = this.history;
    return publish(state, writer, { version: state.latest, ...noRemark }, now);
  }

  private decideAll(): void {
    for (let asked = this.asked(); asked.length > 0; asked = this.asked()) {
      const decider = deciders.find(({ id }) => asked.some(({ personId }) => personId === id));
      if (!decider) throw new Error('the sample asks somebody it does not know');
      this.history.pass(day);
      const { state, now } = this.history;
      const outcome = decide(
        state,
        decider,
        { version: state.latest, decision: 'approve', comment: '' },
        now,
      );
      if (publishes(outcome)) this.becomePublished(outcome, decider.name);
      else this.agreed(outcome, decider.name);
    }
    if (this.history.state.latest.state === 'approved') this.becomePublished(this.published(), owner);
  }

  private agreed(outcome: Outcome, name: string): void {
    this.history.do(outcome);
    const { latest } = this.history.state;
    const then =
      latest.state === 'approved'
        ? `: ${this.spoken(latest)} is approved and waits for its owner to publish it.`
        : `; ${this.waiting()} is still asked.`;
    this.record(`${name} approves${then}`, { decided: [latest.id], seen: [latest.id] });
  }

  private becomePublished(outcome: Outcome, who: string): void {
    const before = new Set(this.history.kept);
    this.history.do(outcome);
    const { inForce } = this.history.state;
    const id = inForce ? [inForce.id] : [];
    const decides = this.rules.approval.on && who !== owner;
    const by = decides ? `${who} approves, and that publishes` : `${who} publishes`;
    this.record(`${by} ${this.governing()}.${this.gone(before)}`, {
      numbered: id,
      decided: id,
      ...(inForce ? { seen: id } : {}),
      ...this.keptPart(before),
    });
  }

  private text(): ContentFacts {
    this.texts += 1;
    return { sha256: `${this.texts}`, size: 1000, fileName: 'sample.docx', mediaType: 'sample', words: 100 };
  }

  private spoken(version: Version): string {
    return version.numbering === 'none' ? 'the current version' : this.history.label(version);
  }

  private governing(): string {
    const { inForce } = this.history.state;
    return inForce ? this.spoken(inForce) : 'nothing';
  }

  private asked(): Post[] {
    return this.history.approval ? waitingFor(this.history.approval) : [];
  }

  private waiting(): string {
    return this.asked()
      .map(({ name }) => name.toLowerCase())
      .join(' and ');
  }

  private toCome(): string {
    if (this.rules.numbering === 'none') return 'A new current version';
    const { minor, major } = toComeOf(this.history.state);
    return minor ?? major;
  }

  /** Versions whose content was there and was thinned since. */
  private thinnedSince(before: ReadonlySet<string>): Version[] {
    return this.history.versions.filter(
      (version) => version.thinned && before.has(this.history.label(version)),
    );
  }

  private keptPart(before: ReadonlySet<string>): SampleStep['acts'] {
    const kept = this.thinnedSince(before).map(({ id }) => id);
    return kept.length > 0 ? { kept } : {};
  }

  private gone(before: ReadonlySet<string>): string {
    const versions = this.thinnedSince(before);
    const [first] = versions;
    if (!first) return '';
    const labels = versions.map((version) =>
      version.numbering === 'none' ? 'the content it replaces' : this.history.label(version),
    );
    const why = (first.thinned?.why ?? '').replace(/\.$/, '');
    return ` ${sentence(labels.join(', '))} ${labels.length === 1 ? 'is' : 'are'} thinned: ${why}.`;
  }

  private record(text: string, acts: SampleStep['acts']): void {
    const { state, versions, approval, now } = this.history;
    const { presentEra, custody } = state;
    this.steps.push({ text, acts, versions, presentEra, custody, approval, toCome: toComeOf(state), now });
  }
}

const toComeOf = ({ rules, highest, presentEra }: DocumentState): ToCome =>
  labelsToCome(rules, highest, presentEra);
const sentence = (text: string): string => `${text[0]?.toUpperCase() ?? ''}${text.slice(1)}`;
