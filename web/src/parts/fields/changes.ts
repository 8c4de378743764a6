import type { Document } from '@polychron/contract';
import type { GivenFields } from './FieldItems.tsx';
import { givenOf, type GivenValue, isEmpty } from './ownFields.ts';

/** What stands in the form. */
export interface Values extends GivenFields {
  title: string;
  comment?: string;
}

/**
 * What is to be changed: of the version's fields (null empties one), of what belongs to the document itself,
 * and of its people.
 */
export interface Changes {
  fields: { title?: string; type?: string | null; subject?: string[]; reviewBy?: string | null } & Given;
  administrative: Given;
  people: { owner?: string; coAuthors?: string[]; approvers?: string[] };
}
type Given = Record<string, GivenValue | null>;

const accounts = (people: Document['coAuthors']): string[] => people.map(({ account }) => account);

/** What the form holds when it opens: the fields as they are now, and the people. */
export function valuesOf({ fields, owner, coAuthors, approvers }: Document): Values {
  return {
    title: fields.title,
    type: fields.type ?? '',
    subject: fields.subject ?? [],
    reviewBy: fields.reviewBy ?? null,
    owner: owner.account,
    coAuthors: accounts(coAuthors),
    approvers: accounts(approvers),
    own: givenOf(fields),
  };
}

/** Only what differs from the document as it is; `administrative` names what makes no version. */
export function changesOf(
  document: Document,
  values: Values,
  administrative: readonly string[] = [],
): Changes {
  const before = valuesOf(document);
  const given = { ...values, title: values.title?.trim(), type: values.type?.trim() ?? '' };
  const differs = (name: keyof GivenFields | 'title'): boolean =>
    given[name] !== undefined && JSON.stringify(given[name]) !== JSON.stringify(before[name]);
  const { title, type, subject, reviewBy = null, owner, coAuthors, approvers, own = {} } = given;
  const ownChanged = Object.entries(own).flatMap(([name, value]): [string, GivenValue | null][] => {
    const filled = value === undefined || isEmpty(value) ? null : value;
    const was = before.own?.[name] ?? null;
    return JSON.stringify(filled) === JSON.stringify(was) ? [] : [[name, filled]];
  });
  const isApart = ([name]: [string, unknown]): boolean => administrative.includes(name);
  return {
    fields: {
      ...(differs('title') ? { title } : {}),
      ...(differs('type') ? { type: type || null } : {}),
      ...(differs('subject') && subject ? { subject } : {}),
      ...(differs('reviewBy') ? { reviewBy } : {}),
      ...Object.fromEntries(ownChanged.filter((one) => !isApart(one))),
    },
    administrative: Object.fromEntries(ownChanged.filter(isApart)),
    people: {
      ...(differs('owner') && owner ? { owner } : {}),
      ...(differs('coAuthors') && coAuthors ? { coAuthors } : {}),
      ...(differs('approvers') && approvers ? { approvers } : {}),
    },
  };
}
