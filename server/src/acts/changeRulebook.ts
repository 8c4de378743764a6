import type * as contract from '@polychron/contract';
import {
  type AskedRulebook,
  limitsAnything,
  limitsAt,
  refuse,
  refuseReason,
  type Rulebook,
  type RuleChange,
  rulebookDifference,
  takeUpRules,
} from '@polychron/core';
import { accessLibrary, requireOpen, requireRole } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { refuseStale } from '../access/preconditions.ts';
import type { Context } from '../context.ts';
import { proposedRules } from '../reads/proposedRules.ts';
import { readRulebook, revisionTag } from '../reads/rulebook.ts';
import { Refused } from '../refused.ts';
import { transact, type Tx } from '../store/database.ts';
import { documentsIn, loadDocuments } from '../store/documents.ts';
import { queueThinning } from '../store/jobs.ts';
import { type Doer, keepDecision } from '../store/keepDecision.ts';
import { appendLedger } from '../store/ledger.ts';
import { namesOf } from '../store/people.ts';
import { addRevision, loadRevision, type Revision } from '../store/rules.ts';

/**
 * Sets rules, with a reason: one transaction with what it does to runs and numbers, and the thinning it calls
 * for queued behind it. Acts under way are finished by the old rules first.
 */
export async function performChangeRulebook(
  asker: Asker,
  libraryId: string,
  asked: AskedRulebook & { reason: string },
): Promise<{ view: contract.RulebookView; tag: string }> {
  const { context, caller } = asker;
  const { reason, ...choices } = asked;
  await transact(context.db, async (tx) => {
    const { library, actor } = await accessLibrary(asker, libraryId, { tx });
    requireRole(actor, 'changeRules', 'Setting rules');
    requireOpen(library);
    const present = await loadRevision(context, libraryId, library.rulebookRevision, tx);
    await refuseStaleRules(asker, present, tx);
    const rules = await proposedRules(context, present.rulebook, choices, tx);
    const changes = changesOf(present.rulebook, rules, reason);
    const at = context.clock();
    const by = { personId: caller.id, at };
    await takeUp(context, { libraryId, before: present.rulebook, rules }, by, tx);
    const revision = present.revision + 1;
    const kept = { revision, rulebook: rules, personId: caller.id, at, reason: reason.trim() };
    await addRevision(context, libraryId, kept, tx);
    if (limitsAnything(limitsAt(rules, at))) {
      await queueThinning(context, { id: libraryId, revision }, at, tx);
    }
    const facts = { revision, reason: reason.trim(), changes };
    await appendLedger(context, { ...by, libraryId, documentId: null, act: 'changeRules', facts }, tx);
  });
  context.wake();
  context.events.publish({ kind: 'library', libraryId });
  return readRulebook(asker, libraryId);
}

async function refuseStaleRules({ context, ifMatch }: Asker, present: Revision, tx: Tx): Promise<void> {
  if (ifMatch === undefined) return;
  const { revision, personId, at, reason, rulebook } = present;
  const by = (await namesOf(context, [personId], tx)).get(personId)?.name ?? '';
  refuseStale(ifMatch, revisionTag(revision), { revision, by, at: at.toISOString(), reason, rulebook });
}

/** What differs. @throws Refused `reason-missing`, `nothing-changed` */
function changesOf(before: Rulebook, rules: Rulebook, reason: string): RuleChange[] {
  const refused = refuseReason(
    reason,
    'Say in a sentence why the rules change; the sentence stays with the revision.',
  );
  if (refused) throw new Refused(refused);
  const changes = rulebookDifference(before, rules);
  if (changes.length > 0) return changes;
  const same = 'These are the rules in force already; there is nothing to apply.';
  throw new Refused(refuse('invalid', 'nothing-changed', same));
}

/** Documents taken up in one load. */
const batch = 100;

/** Takes every document concerned through a change of rules: runs ended, eras opened. */
async function takeUp(
  context: Context,
  change: { libraryId: string; before: Rulebook; rules: Rulebook },
  by: Doer & { personId: string },
  tx: Tx,
): Promise<void> {
  const { libraryId, before, rules } = change;
  const leavesNone = before.numbering === 'none' && rules.numbering !== 'none';
  const endsRuns = before.approval.on && !rules.approval.on;
  if (!leavesNone && !endsRuns) return;
  const concerned = await documentsIn(context, libraryId, leavesNone ? 'all' : 'inApproval', tx);
  for (let at = 0; at < concerned.length; at += batch) {
    const documents = await loadDocuments(context, concerned.slice(at, at + batch), tx);
    for (const document of documents.values()) {
      const decision = takeUpRules(document, rules, by.personId, by.at);
      if (decision) await keepDecision(context, document, decision, { by, tx });
    }
  }
}
