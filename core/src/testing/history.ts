import type { Custody, Decision, DocumentState, Outcome } from '../versions/document.ts';
import type { Actor, Role } from '../policy/roles.ts';
import { completeRulebook, type RulebookChoices } from '../policy/rulebook.ts';
import type { ContentFacts, Fields, Version } from '../versions/version.ts';
import { createDocument } from '../versions/create.ts';
import { formatLabel } from '../numbering/number.ts';

/** Somebody for tests. */
export function actor(id: string, ...roles: Role[]): Actor {
  return { id, name: id.toUpperCase(), roles: new Set(roles) };
}

/** Content for tests; the same words are the same bytes. */
export function content(words: string, fileName = 'op-001.docx'): ContentFacts {
  return { sha256: `hash of ${words}`, size: words.length, fileName, mediaType: 'application/test', words: words.split(' ').length };
}

export const fields: Fields = { title: 'Opening the line' };
export const author = actor('author', 'author');

/** A document that carries out core's decisions in memory, as the store does in the database. */
export class History {
  versions: Version[] = [];
  private custody: Custody | null = null;
  private inForceId: string | null = null;
  private clock = Date.UTC(2026, 0, 5, 8);
  private readonly rules;

  constructor(rules: RulebookChoices = {}, readonly owner: Actor = author) {
    this.rules = completeRulebook(rules);
  }

  get now(): Date { return new Date(this.clock); }
  pass(milliseconds: number): void { this.clock += milliseconds; }

  get state(): DocumentState {
    const latest = this.versions.at(-1);
    if (!latest) throw new Error('the document has no version yet');
    return {
      id: 'doc', number: 'OP-001', ownerId: this.owner.id, ownerName: this.owner.name, coAuthorIds: [], presentEra: 1, latest,
      inForce: this.versions.find(({ id }) => id === this.inForceId) ?? null,
      highest: latest, custody: this.custody, rules: this.rules,
    };
  }

  get labels(): string[] { return this.versions.map((version) => formatLabel(version, 1)); }
  get inForce(): string | null { const { inForce } = this.state; return inForce && formatLabel(inForce, 1); }
  version(label: string): Version {
    const found = this.versions.find((version) => formatLabel(version, 1) === label);
    if (!found) throw new Error(`no version ${label}`);
    return found;
  }

  create(words: string, level: 'minor' | 'major' = this.rules.numbering === 'stepped' ? 'minor' : 'major'): this {
    const decision = createDocument(this.rules, this.owner, { content: content(words), fields, comment: '', level }, this.now);
    if (decision.refused) throw new Error(decision.reason);
    this.apply({ changes: [{ kind: 'addVersion', version: decision.version }], ledger: decision.ledger });
    return this;
  }

  /** Carries an outcome out; a refusal is thrown. Answers the labels. */
  do(outcome: Outcome): this {
    if (outcome.refused) throw new Error(`${outcome.code}: ${outcome.reason}`);
    this.apply(outcome);
    return this;
  }

  private apply(decision: Decision): void {
    let added: Version | null = null;
    for (const change of decision.changes) {
      switch (change.kind) {
        case 'addVersion': {
          const sequence = this.versions.length + 1;
          added = { ...change.version, id: `v${sequence}`, sequence, thinned: false, sheltered: false };
          this.versions.push(added);
          if (added.standing === 'inForce') this.inForceId = added.id;
          break;
        }
        case 'setStanding':
          this.versions = this.versions.map((version) => (version.id === change.versionId ? { ...version, standing: change.standing } : version));
          break;
        case 'openCustody': {
          const base = this.versions.find(({ id }) => id === change.baseId) as Version;
          this.custody = { holderId: change.holderId, holderName: change.holderId.toUpperCase(), since: change.since, until: change.until, reason: change.reason, base, workingCopy: null, saves: 0, lastSavedAt: null };
          break;
        }
        case 'setUntil': if (this.custody) this.custody = { ...this.custody, until: change.until }; break;
        case 'saveWorkingCopy': if (this.custody) this.custody = { ...this.custody, workingCopy: change.content, saves: this.custody.saves + 1, lastSavedAt: change.at }; break;
        case 'emptyWorkingCopy': if (this.custody) this.custody = { ...this.custody, workingCopy: null, saves: 0, lastSavedAt: null }; break;
        case 'moveBase': if (this.custody && added) this.custody = { ...this.custody, base: added }; break;
        case 'closeCustody': this.custody = null; break;
      }
    }
    this.pass(3_600_000);
  }
}
