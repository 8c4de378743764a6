import type * as contract from '@polychron/contract';
import {
  checkIn,
  checkOut,
  fateOf,
  giveBack,
  isRefusal,
  labelIn,
  type Level,
  levelOf,
  type Outcome,
  type Refusal,
} from '@polychron/core';
import { accessDocument } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import { documentNames } from '../reads/documentNames.ts';
import { toComeOf } from '../reads/documentView.ts';
import { Refused } from '../refused.ts';
import { admitCheckIn, performCheckIn } from './checkIn.ts';
import { performCheckOut } from './checkOut.ts';
import { performGiveBack } from './giveBack.ts';

type Result = contract.BulkOutcomes['outcomes'][number];
type Said = Pick<Result, 'text' | 'label'>;
type Named = Pick<Result, 'document' | 'number' | 'title'>;

/**
 * One act on several documents, each in a transaction of its own: what is refused of one leaves the others
 * alone. With `rehearse` nothing is changed; core is asked what would become of each.
 */
export async function performBulk(asker: Asker, wanted: contract.Bulk): Promise<contract.BulkOutcomes> {
  const outcomes: Result[] = [];
  for (const id of new Set(wanted.documents)) outcomes.push(await actOn(asker, id, wanted));
  return { outcomes };
}

async function actOn(asker: Asker, id: string, wanted: contract.Bulk): Promise<Result> {
  let named: Named = { document: id, number: '', title: '' };
  try {
    const access = await accessDocument(asker, id);
    const title = (await documentNames(asker, [id])).get(id)?.name.title ?? '';
    named = { document: id, number: access.document.number, title };
    const outcome = rehearse(access, wanted, asker.context.clock());
    if (isRefusal(outcome)) return refused(named, outcome);
    const said = foretell(access, wanted);
    const done = wanted.rehearse ? said : await carryOut(asker, id, wanted, said);
    return { ...named, ok: true, ...done, problem: null };
  } catch (error) {
    if (error instanceof Refused) return refused(named, error.refusal);
    throw error;
  }
}

const refused = (named: Named, { code, reason }: Refusal): Result => ({
  ...named,
  ok: false,
  text: reason,
  label: null,
  problem: { code, detail: reason },
});

const checkOutOf = ({ reason, until }: contract.Bulk) => ({
  reason: reason ?? null,
  until: until ? new Date(until) : null,
});

/** The level a document of the selection gets: a draft unless asked otherwise, where there are drafts. */
const levelFor = ({ document: { rules } }: Access, { level }: contract.Bulk): Level =>
  level ?? (rules.numbering === 'stepped' ? 'minor' : levelOf(level));

function rehearse(access: Access, wanted: contract.Bulk, now: Date): Outcome {
  const { document, actor } = access;
  switch (wanted.act) {
    case 'checkOut':
      return checkOut(document, actor, checkOutOf(wanted), now);
    case 'giveBack':
      return giveBack(document, actor);
    case 'checkIn': {
      // Before the comment is written it cannot be what refuses.
      const comment = wanted.comment || (wanted.rehearse ? 'x' : '');
      const level = levelFor(access, wanted);
      const command = { ...wanted, level, comment, content: null, keepFileName: false };
      return checkIn(document, actor, command, now);
    }
  }
}

/** What will become of a document, in words. */
function foretell(access: Access, wanted: contract.Bulk): Said {
  const { document } = access;
  switch (wanted.act) {
    case 'checkOut':
      return { text: `checked out at ${labelIn(document, document.latest)}`, label: null };
    case 'giveBack': {
      const saves = document.custody?.saves ?? 0;
      const going = `${saves} ${saves === 1 ? 'save goes' : 'saves go'}`;
      return { text: `given back; ${saves === 0 ? 'nothing was saved' : going}`, label: null };
    }
    case 'checkIn': {
      const { minor, major, submittedAs } = toComeOf(document);
      const level = levelFor(access, wanted);
      const label = level === 'minor' ? minor : (submittedAs ?? major);
      const fates = { draft: 'a draft', submitted: 'submitted for approval', published: 'in force' };
      return { text: `checked in as ${label}, ${fates[fateOf(document.rules, level)]}`, label };
    }
  }
}

async function carryOut(asker: Asker, id: string, wanted: contract.Bulk, said: Said): Promise<Said> {
  switch (wanted.act) {
    case 'giveBack':
      await performGiveBack(asker, id);
      return said;
    case 'checkOut':
      await performCheckOut(asker, id, checkOutOf(wanted));
      return said;
    case 'checkIn': {
      const { comment, keepCheckedOut, confirm } = wanted;
      const level = levelFor(await accessDocument(asker, id), wanted);
      const command = { comment, level, keepCheckedOut, confirm, keepFileName: false };
      const from = { held: await admitCheckIn(asker, id), file: null };
      const { label } = await performCheckIn(asker, id, command, from);
      return { text: said.text.replace(said.label ?? '', label), label };
    }
  }
}
