import { refuse } from '@polychron/core';
import { Refused } from '../../refused.ts';

/** What must hold of a resource: that it is locked by a token, or has an entity tag; or that it is not so. */
interface Condition {
  not: boolean;
  kind: 'token' | 'tag';
  value: string;
}

/** Conditions that must all hold; of the resource that is asked for, where none is named. */
export interface ConditionList {
  resource: string | null;
  conditions: Condition[];
}

const malformed = (): Refused =>
  new Refused(refuse('invalid', 'malformed-if', 'The If header cannot be read (RFC 4918, 10.4).'));

/** An address before a list, a bracket, Not, a token or a tag. */
const part = /\s*(?:<([^>]*)>|(\()|(\))|(Not)\b|\[((?:W\/)?"[^"]*")\])/iy;

/**
 * The lists of an If header: one of them must hold (RFC 4918, 10.4).
 * @throws Refused `malformed-if`
 */
export function readIf(header: string): ConditionList[] {
  const lists: ConditionList[] = [];
  let resource: string | null = null;
  let open: ConditionList | null = null;
  let not = false;
  const add = (kind: Condition['kind'], value: string): void => {
    if (!open) throw malformed();
    open.conditions.push({ not, kind, value });
    not = false;
  };
  part.lastIndex = 0;
  const end = header.trimEnd().length;
  while (part.lastIndex < end) {
    const [, coded, opens, closes, negates, tag] = part.exec(header) ?? [];
    if (opens) {
      if (open) throw malformed();
      open = { resource, conditions: [] };
    } else if (closes) {
      if (!open || not || open.conditions.length === 0) throw malformed();
      lists.push(open);
      open = null;
    } else if (negates && open) not = true;
    else if (tag !== undefined) add('tag', tag);
    else if (coded !== undefined && open) add('token', coded);
    else if (coded !== undefined) resource = coded;
    else throw malformed();
  }
  if (open || lists.length === 0) throw malformed();
  return lists;
}

/** The lock tokens that a header names, whether they hold or not (RFC 4918, 10.4.1). */
export const tokensIn = (lists: readonly ConditionList[]): Set<string> =>
  new Set(
    lists.flatMap(({ conditions }) =>
      conditions.flatMap(({ kind, value }) => (kind === 'token' ? [value] : [])),
    ),
  );

/** What is known of a resource: the tokens of its locks, and its entity tag; null where it has none. */
export interface ResourceState {
  tokens: ReadonlySet<string>;
  tag: string | null;
}

/** Whether a list holds. */
export const holds = ({ conditions }: ConditionList, { tokens, tag }: ResourceState): boolean =>
  conditions.every(({ not, kind, value }) => {
    const is = kind === 'token' ? tokens.has(value) : value === tag;
    return is !== not;
  });
