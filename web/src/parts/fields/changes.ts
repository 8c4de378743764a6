import type { Document } from '@polychron/contract';
import type { GivenFields } from './FieldItems.tsx';

/** What stands in the form. */
export interface Values extends GivenFields {
  title: string;
  comment?: string;
}

/** What is to be changed: of the version's fields (null empties one), and of the document's people. */
export interface Changes {
  fields: { title?: string; type?: string | null; subject?: string[]; reviewBy?: string | null };
  people: { owner?: string; coAuthors?: string[]; approvers?: string[] };
}

const accounts = (people: Document['coAuthors']): string[] => people.map(({ account }) => account);

/** What the form holds when it opens: the fields of the latest version, and the people. */
export function valuesOf({ latest: { fields }, owner, coAuthors, approvers }: Document): Values {
  return {
    title: fields.title,
    type: fields.type ?? '',
    subject: fields.subject ?? [],
    reviewBy: fields.reviewBy ?? null,
    owner: owner.account,
    coAuthors: accounts(coAuthors),
    approvers: accounts(approvers),
  };
}

/** Only what differs from the document as it is. */
export function changesOf(document: Document, values: Values): Changes {
  const before = valuesOf(document);
  const given = { ...values, title: values.title?.trim(), type: values.type?.trim() ?? '' };
  const differs = (name: keyof GivenFields | 'title'): boolean =>
    given[name] !== undefined && JSON.stringify(given[name]) !== JSON.stringify(before[name]);
  const { title, type, subject, reviewBy = null, owner, coAuthors, approvers } = given;
  return {
    fields: {
      ...(differs('title') ? { title } : {}),
      ...(differs('type') ? { type: type || null } : {}),
      ...(differs('subject') && subject ? { subject } : {}),
      ...(differs('reviewBy') ? { reviewBy } : {}),
    },
    people: {
      ...(differs('owner') && owner ? { owner } : {}),
      ...(differs('coAuthors') && coAuthors ? { coAuthors } : {}),
      ...(differs('approvers') && approvers ? { approvers } : {}),
    },
  };
}
