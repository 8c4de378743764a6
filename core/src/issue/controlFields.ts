import { type OwnValues, valueWords } from '../document/fieldValue.ts';
import type { Fields, State, Standing } from '../document/version.ts';
import { type ControlField, controlFields, controlKey } from '../rules/controlNames.ts';

/** Stands where there is nothing to say: a draft has no issue date. */
const nothing = '–';

/** What an issued copy is made of: a version as it stands at the moment of issuing. */
export interface IssuedFacts {
  number: string;
  /** The version as people read it: "2.0". */
  version: string;
  state: State;
  standing: Standing | null;
  fields: Fields;
  /** Values of fields of the library's own, as they are shown with the version. */
  own: OwnValues;
  ownerName: string;
  /** Who approved it, or would be asked to. */
  approverNames: readonly string[];
  /** When it came, or comes, into force; null for one that never does. */
  inForceFrom: Date | null;
  /** By when it is to be reviewed, a calendar date; null: by no date. */
  reviewBy: string | null;
  /** What is in force now, as people read it; null: nothing. */
  inForce: string | null;
  /** Whether the document is void. */
  voided: boolean;
}

/** Values to be written, by the key of their name; and the names, as the library calls them. */
export interface ControlValues {
  values: ReadonlyMap<string, string>;
  /** One line that says what the file is, for the margin of a page. */
  line: string;
}

const dateOf = (at: Date): string => at.toISOString().slice(0, 10);

/** How a version stands, in a word or two that are true on paper on the day it is issued. */
export function statusWords({ state, standing, inForceFrom, inForce, voided }: IssuedFacts): string {
  if (voided) return 'Void';
  switch (state) {
    case 'draft':
      return 'Draft';
    case 'inApproval':
      return 'Draft, in approval';
    case 'approved':
      return 'Draft, approved and not yet published';
    case 'rejected':
      return 'Draft, rejected';
    case 'withdrawn':
      return inForce === null ? 'Withdrawn' : `Withdrawn; ${inForce} is in force`;
    case 'published':
      if (standing === 'scheduled')
        return inForceFrom ? `In force from ${dateOf(inForceFrom)}` : 'Not yet in force';
      if (standing === 'inForce') return 'In force';
      return inForce === null ? 'Superseded' : `Superseded; ${inForce} is in force`;
  }
}

/** The date of issue, in UTC (ISO 8601); none for what was not published. */
const issueDate = ({ state, inForceFrom }: IssuedFacts): string =>
  inForceFrom && (state === 'published' || state === 'withdrawn') ? dateOf(inForceFrom) : nothing;

/**
 * What is written into an issued copy.
 * @param names what the library calls each in its files
 * @param nameOf the name of a person by id, for fields of the library's own
 */
export function controlValues(
  facts: IssuedFacts,
  names: Record<ControlField, string>,
  nameOf: (personId: string) => string,
): ControlValues {
  const told: Record<ControlField, string> = {
    number: facts.number,
    title: facts.fields.title,
    version: facts.version,
    status: statusWords(facts),
    owner: facts.ownerName,
    approvers: facts.approverNames.join(', ') || nothing,
    issueDate: issueDate(facts),
    reviewDate: facts.reviewBy ?? nothing,
  };
  const own = Object.entries(facts.own).map(([name, value]): [string, string] => [
    controlKey(name),
    valueWords(value, nameOf),
  ]);
  const control = controlFields.map((field): [string, string] => [controlKey(names[field]), told[field]]);
  const issued = told.issueDate === nothing ? [] : [`issued ${told.issueDate}`];
  const line = [`${told.number} ${told.title}`, told.version, told.status, ...issued, told.owner].join(' · ');
  return { values: new Map([...own, ...control]), line };
}
