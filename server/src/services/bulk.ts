import type * as contract from '@polychron/contract';
import { checkIn as decideCheckIn, checkOut as decideCheckOut, discard as decideDiscard, formatLabel, isRefusal, labelsToCome, type Outcome, type Refusal } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { type Access, accessDocument, type Caller } from './access.ts';
import { checkIn, checkOut, discard } from './custody.ts';
import { documentNames } from './named.ts';

type Told = contract.BulkOutcomes['outcomes'][number];

/**
 * One act on several documents, each in a transaction of its own: what is refused of one leaves the others alone. With `rehearse` nothing is
 * changed; core is asked what would become of each.
 */
export async function bulk(context: Context, caller: Caller, wanted: contract.Bulk): Promise<contract.BulkOutcomes> {
  const outcomes: Told[] = [];
  for (const id of new Set(wanted.documents)) outcomes.push(await one(context, caller, id, wanted));
  return { outcomes };
}

async function one(context: Context, caller: Caller, id: string, wanted: contract.Bulk): Promise<Told> {
  let named = { document: id, number: '', title: '' };
  try {
    const access = await accessDocument(context, caller, id);
    named = { document: id, number: access.document.number, title: (await documentNames(context, caller, [id])).get(id)?.name.title ?? '' };
    const rehearsed = rehearse(access, wanted, context.clock());
    if (isRefusal(rehearsed)) return refused(named, rehearsed);
    const said = told(access, wanted);
    if (wanted.rehearse) return { ...named, ok: true, ...said, problem: null };
    return { ...named, ok: true, ...await carryOut(context, caller, id, wanted, said), problem: null };
  } catch (error) {
    if (error instanceof Refused) return refused(named, error.refusal);
    throw error;
  }
}

const refused = (named: Pick<Told, 'document' | 'number' | 'title'>, { code, reason }: Refusal): Told => ({ ...named, ok: false, text: reason, label: null, problem: { code, detail: reason } });

function rehearse({ document, actor }: Access, wanted: contract.Bulk, now: Date): Outcome {
  switch (wanted.act) {
    case 'checkOut': return decideCheckOut(document, actor, { reason: wanted.reason ?? null, until: wanted.until ? new Date(wanted.until) : null }, now);
    case 'discard': return decideDiscard(document, actor);
    // Before the comment is written it cannot be what refuses.
    case 'checkIn': return decideCheckIn(document, actor, { ...wanted, comment: wanted.comment || (wanted.rehearse ? 'x' : ''), content: null, keepFileName: false }, now);
  }
}

function told({ document }: Access, wanted: contract.Bulk): Pick<Told, 'text' | 'label'> {
  const { custody } = document;
  if (wanted.act === 'checkOut') return { text: `checked out at ${formatLabel(document.latest, document.presentEra)}`, label: null };
  if (wanted.act === 'discard') {
    const saves = custody?.saves ?? 0;
    return { text: saves === 0 ? 'given back; nothing was saved' : `given back; ${saves} ${saves === 1 ? 'save goes' : 'saves go'}`, label: null };
  }
  const { minor, major, submittedAs } = labelsToCome(document);
  const label = wanted.level === 'minor' ? minor : submittedAs ?? major;
  return { text: wanted.level === 'minor' ? `becomes ${label}, a draft` : submittedAs ? `becomes ${label} and is submitted` : `becomes ${label} and is in force`, label };
}

async function carryOut(context: Context, caller: Caller, id: string, wanted: contract.Bulk, said: Pick<Told, 'text' | 'label'>): Promise<Pick<Told, 'text' | 'label'>> {
  if (wanted.act === 'discard') { await discard(context, caller, id); return said; }
  if (wanted.act === 'checkOut') { await checkOut(context, caller, id, { reason: wanted.reason ?? null, until: wanted.until ? new Date(wanted.until) : null }); return said; }
  const { comment, level, keepCheckedOut, confirm } = wanted;
  const { label } = await checkIn(context, caller, id, { comment, level, keepCheckedOut, confirm, keepFileName: false }, null);
  return { text: said.text.replace(said.label ?? '', label), label };
}
