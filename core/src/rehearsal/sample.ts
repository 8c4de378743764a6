import { decide } from '../approval/decide.ts';
import { type ApprovalRun, waitingFor } from '../approval/run.ts';
import { submit } from '../approval/submit.ts';
import { checkOut, saveWorkingCopy } from '../custody/checkOut.ts';
import type { Actor } from '../policy/roles.ts';
import type { Rulebook } from '../policy/rulebook.ts';
import { checkIn } from '../versions/checkIn.ts';
import type { Custody, Outcome } from '../versions/document.ts';
import { labelsToCome, type ToCome } from '../versions/newVersion.ts';
import { publish } from '../versions/publish.ts';
import { upload } from '../versions/upload.ts';
import type { ContentFacts, Level, Version } from '../versions/version.ts';
import { History } from './history.ts';

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
const deciders: Actor[] = ['The first approver', 'The second approver'].map((name, index) => ({ id: `approver ${index + 1}`, name, roles: new Set(['approver']) }));
const names = new Map([writer, ...deciders].map(({ id, name }) => [id, name]));
const day = 86_400_000;

/**
 * Lives a sample document under the rules, by the same decisions that real documents are taken through: registered, changed, decided,
 * published four times, thinned. Every step can be drawn.
 */
export function sampleLife(rules: Rulebook): SampleStep[] {
  // The sample has its own people, who can always decide; who approves in the library is another matter.
  const sight = rules.sight.inApproval === 'team' ? { ...rules.sight, inApproval: 'approvers' as const } : rules.sight;
  const life = new Life({ ...rules, sight, maxFileBytes: null, allowanceBytes: null });
  life.register();
  life.publish();
  for (const drafts of [2, 1, 2]) {
    for (let draft = 0; draft < drafts; draft += 1) life.change(rules.numbering === 'stepped' ? 'minor' : 'major');
    if (rules.numbering === 'stepped') life.publish();
  }
  life.change(rules.numbering === 'stepped' ? 'minor' : 'major', true);
  return life.steps;
}

class Life {
  readonly steps: SampleStep[] = [];
  private readonly history: History;
  private texts = 0;

  constructor(private readonly rules: Rulebook) {
    this.history = new History(rules, writer, deciders, names);
  }

  register(): void {
    this.history.create(this.text(), { title: 'A sample' });
    const { latest } = this.history.state;
    this.tell(`A new document starts at ${this.spoken(latest)}.`, { numbered: [latest.id], ...this.seen(latest) });
    this.decideAll();
  }

  /** One change: checked out, saved and checked in, or uploaded where no check-out is asked for. */
  change(level: Level, last = false): void {
    this.history.pass(6 * day);
    if (this.rules.custody === 'required' || last) {
      const { latest } = this.history.state;
      this.history.do(checkOut(this.history.state, writer, { reason: null, until: null }, this.history.now));
      this.tell(`${writer.name} checks out ${this.spoken(latest)}; everybody else waits${this.rules.custodyDays === null ? '' : `, for ${this.rules.custodyDays} days at most`}. ${this.toCome()} comes next, not checked in.`, { held: [latest.id], numbered: [] });
      if (this.rules.saves === 'drafts') this.savedAsDraft();
      if (last) return;
    }
    const content = this.text();
    this.added(this.rules.custody === 'required'
      ? checkIn(this.history.state, writer, { level, comment: 'A change', keepCheckedOut: false, confirm: [], content, keepFileName: false }, this.history.now)
      : upload(this.history.state, writer, { level, comment: 'A change', confirm: [], content, keepFileName: false, basedOn: this.history.state.latest }, this.history.now),
    this.rules.custody === 'required' ? 'is checked in' : 'is uploaded without a check-out');
    this.decideAll();
  }

  private savedAsDraft(): void {
    this.history.do(saveWorkingCopy(this.history.state, writer, this.text(), this.history.now));
    const { latest } = this.history.state;
    this.tell(`A save is a draft version here: ${this.spoken(latest)}.`, { held: [latest.id], numbered: [latest.id] });
  }

  private added(outcome: Outcome, how: string): void {
    const before = new Set(this.history.kept);
    this.history.do(outcome);
    const { latest } = this.history.state;
    const state = latest.state === 'inApproval' ? ', in approval' : latest.state === 'draft' ? ', a draft' : '';
    this.tell(`${sentence(this.spoken(latest))} ${how}${state}.${this.gone(before)}`, { numbered: [latest.id], ...this.seen(latest), ...this.keptPart(before) });
  }

  /** Publishes the open draft: at once, or through the approvers. */
  publish(): void {
    if (this.history.state.latest.state !== 'draft') return;
    this.history.pass(2 * day);
    const { latest } = this.history.state;
    if (this.rules.approval.on) {
      this.history.do(submit(this.history.state, writer, { version: latest, comment: '', inForceFrom: null }, this.history.now));
      this.tell(`${sentence(this.spoken(latest))} is submitted; ${this.waiting()} decides. Readers still see ${this.governing()}.`, { decided: [latest.id], ...this.seen(this.history.state.latest) });
      this.decideAll();
    } else this.becomePublished(publish(this.history.state, writer, { version: latest, comment: '', inForceFrom: null }, this.history.now), writer.name);
  }

  private decideAll(): void {
    while (this.history.approval) {
      const version = this.history.state.latest;
      const decider = deciders.find(({ id }) => id === waitingFor(this.history.approval as ApprovalRun)[0]?.personId) as Actor;
      this.history.pass(day);
      const outcome = decide(this.history.state, decider, { version, decision: 'approve', comment: '' }, this.history.now);
      if (!('changes' in outcome) || !outcome.changes.some(({ kind }) => kind === 'addVersion' || kind === 'comeIntoForce')) {
        this.history.do(outcome);
        const after = this.history.state.latest;
        this.tell(after.state === 'approved' ? `${decider.name} agrees: ${this.spoken(after)} is approved and waits for its owner to publish it.` : `${decider.name} agrees; ${this.waiting()} is still asked.`, { decided: [after.id], ...this.seen(after) });
      } else this.becomePublished(outcome, decider.name);
    }
    const { latest } = this.history.state;
    if (latest.state === 'approved') this.becomePublished(publish(this.history.state, writer, { version: latest, comment: '', inForceFrom: null }, this.history.now), 'The owner');
  }

  private becomePublished(outcome: Outcome, who: string): void {
    const before = new Set(this.history.kept);
    this.history.do(outcome);
    const { inForce } = this.history.state;
    const id = inForce ? [inForce.id] : [];
    const by = this.rules.approval.on && who !== 'The owner' ? `${who} agrees, and that publishes` : `${who} publishes`;
    this.tell(`${by} ${this.governing()}.${this.gone(before)}`, { numbered: id, decided: id, ...(inForce ? this.seen(inForce) : {}), ...this.keptPart(before) });
  }

  private text(): ContentFacts {
    this.texts += 1;
    return { sha256: `${this.texts}`, size: 1000, fileName: 'sample.docx', mediaType: 'sample', words: 100 };
  }

  private spoken(version: Version): string {
    return version.numbering === 'none' ? 'the current version' : this.history.label(version);
  }
  private governing(): string { const { inForce } = this.history.state; return inForce ? this.spoken(inForce) : 'nothing'; }
  private waiting(): string { return waitingFor(this.history.approval as ApprovalRun).map(({ name }) => name.toLowerCase()).join(' and '); }
  private toCome(): string {
    if (this.rules.numbering === 'none') return 'A new current version';
    const { minor, major } = labelsToCome(this.history.state);
    return minor ?? major;
  }
  private seen(version: Version): Partial<Record<RulebookPart, string[]>> { return { seen: [version.id] }; }
  private keptPart(before: ReadonlySet<string>): Partial<Record<RulebookPart, string[]>> {
    const ids = this.history.versions.filter((version) => version.thinned && before.has(this.history.label(version))).map(({ id }) => id);
    return ids.length > 0 ? { kept: ids } : {};
  }
  private gone(before: ReadonlySet<string>): string {
    const versions = this.history.versions.filter((version) => version.thinned && before.has(this.history.label(version)));
    if (versions.length === 0) return '';
    const labels = versions.map((version) => (version.numbering === 'none' ? 'the content it replaces' : this.history.label(version)));
    return ` ${sentence(labels.join(', '))} ${labels.length === 1 ? 'is' : 'are'} thinned: ${(versions[0]?.thinned?.why ?? '').replace(/\.$/, '')}.`;
  }

  private tell(text: string, acts: SampleStep['acts']): void {
    const { state } = this.history;
    this.steps.push({ text, acts, versions: this.history.versions, presentEra: state.presentEra, custody: state.custody, approval: this.history.approval, toCome: labelsToCome(state), now: this.history.now });
  }
}

const sentence = (text: string): string => `${text[0]?.toUpperCase() ?? ''}${text.slice(1)}`;
