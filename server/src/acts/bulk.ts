import type * as contract from '@polychron/contract';
import {
  checkIn,
  baseToCheckOut,
  checkOut,
  decide,
  fateOf,
  giveBack,
  ifApproved,
  isRefusal,
  labelIn,
  type Level,
  levelOf,
  newVersion,
  type Outcome,
  type Post,
  publish,
  reduce,
  type Refusal,
  submit,
  waitingFor,
} from '@polychron/core';
import { accessDocument } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import { documentNames } from '../reads/documentNames.ts';
import { toComeOf } from '../reads/documentView.ts';
import { Refused } from '../refused.ts';
import { admitCheckIn, performCheckIn } from './checkIn.ts';
import { performCheckOut } from './checkOut.ts';
import { performDecide } from './decide.ts';
import { performGiveBack } from './giveBack.ts';
import { performPublish } from './publish.ts';
import { performSubmit } from './submit.ts';

type Result = contract.BulkOutcomes['outcomes'][number];
/** What becomes of a document, in words before and after, and the number it gets where there is a new one. */
interface Said {
  will: string;
  done: string;
  label: string | null;
}
type Named = Pick<Result, 'document' | 'number' | 'title'>;

/**
 * One act on several documents, each in a transaction of its own: what is refused of one leaves the others
 * alone. With `rehearse` nothing is changed; core is asked what would become of each.
 */
export async function performBulk(asker: Asker, wanted: contract.Bulk): Promise<contract.BulkOutcomes> {
  const outcomes: Result[] = [];
  for (const id of new Set(wanted.documents)) {
    const comment = wanted.comments[id] ?? wanted.comment;
    outcomes.push(await actOn(asker, id, { ...wanted, comment }));
  }
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
    const said = foretell(access, wanted, outcome, asker.context.clock());
    if (wanted.rehearse) return { ...named, ok: true, text: said.will, label: said.label, problem: null };
    return { ...named, ok: true, ...(await carryOut(asker, id, wanted, said)), problem: null };
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
const levelFor = ({ document: { rules } }: Pick<Access, 'document'>, { level }: contract.Bulk): Level =>
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
    case 'submit':
      return submit(document, actor, ofLatest(access, wanted), now);
    case 'publish':
      return publish(document, actor, ofLatest(access, wanted), now);
    case 'approve':
      return decide(document, actor, { ...ofLatest(access, wanted), decision: 'approve' }, now);
  }
}

/** An act on the latest version, in force as soon as it is published. */
const ofLatest = ({ document: { latest } }: Access, { comment }: contract.Bulk) => ({
  version: latest,
  comment,
  inForceFrom: null,
});

const namesOf = (posts: readonly Post[]): string => posts.map(({ name }) => name).join(' and ');

/** What will become of a document: core's outcome, in words. */
function foretell(
  { document, actor }: Access,
  wanted: contract.Bulk,
  outcome: Exclude<Outcome, Refusal>,
  now: Date,
): Said {
  const latest = labelIn(document, document.latest);
  switch (wanted.act) {
    case 'checkOut': {
      const base = labelIn(document, baseToCheckOut(document));
      const why = base === latest ? '' : `, which is in force; ${latest} was withdrawn`;
      return {
        will: `will be checked out at ${base}${why}`,
        done: `checked out at ${base}${why}`,
        label: null,
      };
    }
    case 'giveBack':
      return givenBack(document.custody?.saves ?? 0);
    case 'checkIn':
      return checkedIn(document, levelFor({ document }, wanted));
    case 'submit': {
      const run = reduce(document, outcome.changes, { newId: () => newVersion }).state.approval;
      const asked = `${namesOf(run ? waitingFor(run) : [])} is asked`;
      return {
        will: `${latest} will be submitted; ${asked}`,
        done: `${latest} submitted; ${asked}`,
        label: null,
      };
    }
    case 'publish': {
      const { state } = reduce(document, outcome.changes, { newId: () => newVersion });
      const publishedAs = labelIn(state, state.latest);
      return {
        will: `${latest} will be published as ${publishedAs}, in force`,
        done: `published as ${publishedAs}, in force`,
        label: publishedAs,
      };
    }
    case 'approve':
      return approved(document, actor, now);
  }
}

function givenBack(saves: number): Said {
  const count = `${saves} ${saves === 1 ? 'save' : 'saves'}`;
  if (saves === 0) return { will: 'will be given back; nothing was saved', done: 'given back', label: null };
  return {
    will: `will be given back; ${count} will be lost`,
    done: `given back; ${count} went`,
    label: null,
  };
}

const fates = { draft: 'a draft', submitted: 'submitted for approval', published: 'in force' };

function checkedIn(document: Access['document'], level: Level): Said {
  const { minor, major, submittedAs } = toComeOf(document);
  const label = level === 'minor' ? minor : (submittedAs ?? major);
  const as = `as ${label}, ${fates[fateOf(document.rules, level)]}`;
  return { will: `will be checked in ${as}`, done: `checked in ${as}`, label };
}

function approved(document: Access['document'], actor: Access['actor'], now: Date): Said {
  const latest = labelIn(document, document.latest);
  const outlook = ifApproved(document, actor, now);
  const then = (): string => {
    if (!outlook) return 'nothing follows';
    if (outlook.asked.length > 0) return `${namesOf(outlook.asked)} is asked next`;
    const { published } = outlook;
    if (!published) return 'its owner publishes it';
    return `${published.label} is ${published.inForceFrom ? 'published, in force later' : 'in force'}`;
  };
  return {
    will: `${latest} will be approved; then ${then()}`,
    done: `${latest} approved; ${then()}`,
    label: outlook?.published?.label ?? null,
  };
}

async function carryOut(
  asker: Asker,
  id: string,
  wanted: contract.Bulk,
  { done, label: foretold }: Said,
): Promise<Pick<Result, 'text' | 'label'>> {
  const { comment, confirm } = wanted;
  const so = { text: done, label: foretold };
  switch (wanted.act) {
    case 'giveBack':
      await performGiveBack(asker, id);
      return so;
    case 'checkOut':
      await performCheckOut(asker, id, checkOutOf(wanted));
      return so;
    case 'checkIn': {
      const level = levelFor(await accessDocument(asker, id), wanted);
      const command = { comment, level, keepCheckedOut: wanted.keepCheckedOut, confirm, keepFileName: false };
      const from = { held: await admitCheckIn(asker, id), file: null };
      const { label, notRead } = await performCheckIn(asker, id, command, from);
      const text = done.replace(foretold ?? '', label);
      return { text: notRead ? `${text}. ${notRead}` : text, label };
    }
    case 'submit':
      await performSubmit(asker, id, { comment, inForceFrom: null });
      return so;
    case 'publish': {
      const { label } = await performPublish(asker, id, { comment, inForceFrom: null });
      return { text: done.replace(foretold ?? '', label), label };
    }
    case 'approve': {
      const { document } = await accessDocument(asker, id);
      const version = labelIn(document, document.latest);
      await performDecide(asker, id, { version, decision: 'approve', comment });
      return so;
    }
  }
}
