import type * as contract from '@polychron/contract';
import {
  type Audience,
  audienceOf,
  callsForThinning,
  comeIntoForce,
  type Decision,
  limitsAnything,
  limitsAt,
  type Outcome,
  planThinning,
  tellOfComing,
  type Reduced,
  type Refusal,
  type Version,
} from '@polychron/core';
import { accessDocument, refusalOfShut } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import { refuseStale } from '../access/preconditions.ts';
import type { Context } from '../context.ts';
import { documentTag, documentViews } from '../reads/documentView.ts';
import { whyNotRead } from '../reads/reading.ts';
import { versionView } from '../reads/versionView.ts';
import { accepted, Refused } from '../refused.ts';
import { transact, type Tx } from '../store/database.ts';
import type { LoadedDocument } from '../store/documents.ts';
import { type Doer, keepDecision } from '../store/keepDecision.ts';
import { loadVersions } from '../store/versions.ts';

/** What an act on a document came to. */
export interface Performed {
  /** The document as it is now, for the one who acted. */
  access: Access;
  /** The version it added last; null where none. */
  added: Version | null;
  /** What it added or changed of other versions. */
  changed: ReadonlyMap<string, Version>;
}

/** What a use case asks core, inside the transaction, of the document as it is then. */
export type Deciding = (access: Access, now: Date, tx: Tx) => Outcome | Promise<Outcome>;

/**
 * One act on a document: loads and locks it once, asks core, keeps the answer with what it calls for
 * (versions come into force, thinning, notices, the Ledger), all in one transaction; then publishes what
 * happened. Nothing is done with a voided document, nor in a closed library.
 * @param keep stores contents the decision names, once core has accepted
 */
export const perform = (
  asker: Asker,
  documentId: string,
  decide: Deciding,
  keep?: (tx: Tx) => Promise<void>,
): Promise<Performed> => performWhere(refusalOfShut, asker, documentId, { decide, keep });

/** The same, where `refuses` says what documents nothing can be done with, before core is asked. */
export async function performWhere(
  refuses: (document: LoadedDocument) => Refusal | null,
  asker: Asker,
  documentId: string,
  { decide, keep }: { decide: Deciding; keep?: ((tx: Tx) => Promise<void>) | undefined },
): Promise<Performed> {
  const { context, caller } = asker;
  const { performed, told } = await transact(context.db, async (tx) => {
    const now = context.clock();
    const { document, actor } = await accessDocument(asker, documentId, tx);
    const shut = refuses(document);
    if (shut) throw new Refused(shut);
    const following = new Following(context, document, now, tx);
    await following.comeIntoForce();
    await refuseStaleDocument(asker, { document: following.document, actor }, tx);
    const decision = accepted(await decide({ document: following.document, actor }, now, tx));
    await keep?.(tx);
    const { added, versions } = await following.keep(decision, caller.id);
    await following.thinIfCalledFor(decision);
    const changed = new Map(versions.map(({ after }) => [after.id, after]));
    return {
      performed: { access: { document: following.document, actor }, added, changed },
      told: following.told,
    };
  });
  // Told once it is kept; a transaction that is tried again tells once.
  publish(context, performed.access.document, told);
  return performed;
}

/** What is published of a decision. */
interface Told {
  audience: Audience;
  noticed: readonly string[];
}

/** Publishes decisions about a document that are kept. */
export function publish(
  context: Context,
  { id, libraryId }: Pick<LoadedDocument, 'id' | 'libraryId'>,
  told: readonly Told[],
): void {
  for (const { audience, noticed } of told) {
    context.events.publish({ kind: 'document', documentId: id, libraryId, audience });
    if (noticed.length > 0) context.events.publish({ kind: 'notices', personIds: noticed });
  }
}

/** What is to be published of a decision. */
export const toldOf = (document: LoadedDocument, decision: Decision, reduced: Reduced): Told => ({
  audience: audienceOf(document, decision, reduced),
  noticed: (decision.notices ?? []).flatMap(({ personIds }) => personIds),
});

/** A locked document, followed through the decisions of one transaction. */
export class Following {
  readonly told: Told[] = [];

  constructor(
    private readonly context: Context,
    public document: LoadedDocument,
    private readonly now: Date,
    private readonly tx: Tx,
  ) {}

  /** Keeps a decision; of nobody where time or the rules took it. */
  async keep(decision: Decision, personId: string | null): Promise<Reduced<LoadedDocument>> {
    const by: Doer = { personId, at: this.now };
    const reduced = await keepDecision(this.context, this.document, decision, { by, tx: this.tx });
    this.told.push(toldOf(this.document, decision, reduced));
    const { inForce } = this.document;
    this.document = reduced.state;
    const telling = tellOfComing(this.document, inForce, personId, decision.notices ?? []);
    if (telling) await this.keep(telling, null);
    return reduced;
  }

  /**
   * A version whose moment has come is in force before anything else is decided, also when no sweep has been
   * by yet.
   */
  async comeIntoForce(): Promise<boolean> {
    const due = comeIntoForce(this.document, this.now);
    if (!due) return false;
    await this.keep(due, null);
    return true;
  }

  /** Thins after a decision that may have made earlier versions superfluous. */
  async thinIfCalledFor({ changes }: Decision): Promise<void> {
    if (changes.some(callsForThinning)) await this.thin();
  }

  /** Thins by the rules in force; returns what went. */
  async thin(): Promise<Version[]> {
    const { document, context, now, tx } = this;
    if (!limitsAnything(limitsAt(document.rules, now))) return [];
    const plan = planThinning(document, await loadVersions(context, document.id, tx), now);
    if (!plan) return [];
    const { versions } = await this.keep(plan, null);
    return versions.map(({ after }) => after);
  }
}

async function refuseStaleDocument({ context, ifMatch }: Asker, access: Access, tx: Tx): Promise<void> {
  if (ifMatch === undefined) return;
  const [view] = await documentViews(context, [access], tx);
  if (!view) return;
  const { label, author, at } = view.latest;
  refuseStale(ifMatch, documentTag(view), { latest: label, by: author.name, at });
}

/** The version that an act made of a file, with why its content is not read in the page. */
export async function madeAnswer({ context }: Asker, performed: Performed): Promise<contract.MadeVersion> {
  const { access, added } = performed;
  if (!added) throw new Error('the act made no version');
  return {
    ...(await versionView(context, access, added)),
    notRead: await whyNotRead(context, added.content),
  };
}

/**
 * The version an act added, else the one it was about, as the API tells it: also where the act took it out of
 * the caller's own sight, since they saw it a moment ago.
 */
export function versionAnswer(
  { context }: Asker,
  { access, added, changed }: Performed,
  about: Version | null = null,
): Promise<contract.Version> {
  const version = added ?? (about && (changed.get(about.id) ?? about));
  if (!version) throw new Error('the act made no version and was about none');
  return versionView(context, access, version);
}
