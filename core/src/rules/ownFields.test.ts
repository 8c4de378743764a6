import fc from 'fast-check';
import { changeFields } from '../acts/changeFields.ts';
import { createDocument } from '../acts/create.ts';
import { History } from '../acts/history.ts';
import { valueWords } from '../document/fieldValue.ts';
import { findableWords } from '../document/findWords.ts';
import { isRefusal, type Refusal } from '../document/refusal.ts';
import { notesOn } from '../ruleChange/notes.ts';
import { actor, author, content } from '../testing/people.ts';
import { type NumberPattern, numberBy, patternFor, readPattern, refusePatterns } from './numberPatterns.ts';
import {
  admitFields,
  fieldKinds,
  missingFields,
  type OwnField,
  refuseValues,
  shownValues,
} from './ownFields.ts';
import { completeRulebook } from './rulebook.ts';

const field = (name: string, more: Partial<OwnField> = {}): OwnField => ({
  name,
  kind: 'text',
  choices: [],
  requiredFor: [],
  administrative: false,
  ...more,
});
const part = field('Part', {
  kind: 'choice',
  choices: [
    { name: 'Ropes', within: ['Haul rope', 'Track rope'] },
    { name: 'Towers', within: [] },
  ],
});
const codeOf = (answer: unknown): string | null =>
  isRefusal(answer as Refusal) ? (answer as Refusal).code : null;

test('fields are taken with what was left out filled in, and what makes none is refused', () => {
  expect(admitFields([{ name: ' Tower ', kind: 'number' }])).toEqual([field('Tower', { kind: 'number' })]);
  expect(admitFields([{ name: 'Part', kind: 'choice', choices: ['Ropes'] }])).toEqual([
    field('Part', { kind: 'choice', choices: [{ name: 'Ropes', within: [] }] }),
  ]);
  const senseless: [unknown, string][] = [
    ['Tower', 'rule-value-unknown'],
    [['Tower'], 'field-unfit'],
    [[{ name: '', kind: 'text' }], 'field-unfit'],
    [[{ name: 'Owner', kind: 'person' }], 'field-unfit'],
    [[{ name: 'Tower', kind: 'colour' }], 'field-unfit'],
    [[{ name: 'Tower', kind: 'choice' }], 'field-unfit'],
    [[{ name: 'Tower', kind: 'text', choices: ['a'] }], 'field-unfit'],
    [[{ name: 'Part', kind: 'choice', choices: ['a', 'a'] }], 'field-unfit'],
    [[{ name: 'Tower', kind: 'text', requiredFor: 'some' }], 'field-unfit'],
    [[{ name: 'Tower', kind: 'text', colour: 'red' }], 'field-unfit'],
    [[field('Tower'), field('tower')], 'field-twice'],
    [Array.from({ length: 41 }, (_, index) => field(`F${index}`)), 'field-unfit'],
  ];
  for (const [given, code] of senseless) expect([given, codeOf(admitFields(given))]).toEqual([given, code]);
});

test('values fit their field or are refused, and one that there is not is named', () => {
  const fields = [
    ...fieldKinds.filter((kind) => kind !== 'choice').map((kind) => field(kind, { kind })),
    part,
  ];
  const fit = (name: string, value: Parameters<typeof refuseValues>[1][string]) =>
    codeOf(refuseValues({ fields }, { [name]: value }));
  expect(fit('text', 'x')).toBeNull();
  expect(fit('text', 'x'.repeat(2001))).toBe('field-value-unfit');
  expect(fit('number', 2.5)).toBeNull();
  expect(fit('number', '2.5')).toBe('field-value-unfit');
  expect(fit('date', '2028-02-29')).toBeNull();
  // ISO 8601 knows no 29 February in a year that is none of 366 days.
  expect(fit('date', '2027-02-29')).toBe('field-value-unfit');
  expect(fit('person', { person: 'id' })).toBeNull();
  expect(fit('person', 'author')).toBe('field-value-unfit');
  expect(fit('yesNo', false)).toBeNull();
  expect(fit('Part', ['Ropes', 'Haul rope'])).toBeNull();
  expect(fit('Part', ['Towers'])).toBeNull();
  expect(fit('Part', ['Towers', 'Haul rope'])).toBe('field-value-unfit');
  expect(fit('Part', ['Cabins'])).toBe('field-value-unfit');
  expect(fit('constructor', 'x')).toBe('field-unknown');
  // What is emptied need not be there any more.
  expect(fit('gone', null)).toBeNull();
});

const rules = {
  fields: [
    field('Tower', { kind: 'number', requiredFor: ['Drawing'] }),
    field('Contractor'),
    field('Shelf', { administrative: true, requiredFor: 'all' }),
  ],
};
const register = (more: object, type?: string) => {
  const opening = {
    id: 'd',
    number: 'OP-001',
    owner: author,
    coAuthorIds: [],
    approvers: [],
    rules: completeRulebook(rules),
    bytesKept: null,
  };
  const fields = { title: 'Tower 4', type, own: more as Record<string, string> };
  return createDocument(
    opening,
    author,
    { content: content('x'), fields, comment: '', templateVersionId: null },
    new Date(0),
  );
};

test('what a type needs is needed to register a document, whatever the capitals of the type', () => {
  expect(register({}, 'drawing')).toMatchObject({
    code: 'fields-missing',
    reason: 'A document of the type “drawing” needs Tower and Shelf. Fill that in.',
    facts: { missing: ['Tower', 'Shelf'] },
  });
  expect(register({ Shelf: 'B2' }, 'Notice')).toMatchObject({
    changes: [
      { kind: 'addVersion', version: { fields: { title: 'Tower 4', type: 'Notice' } } },
      { kind: 'setAdministrative', values: { Shelf: 'B2' } },
    ],
    ledger: { facts: { administrative: { Shelf: 'B2' } } },
  });
  expect(codeOf(register({ Shelf: 'B2', Colour: 'red' }))).toBe('field-unknown');
});

const begun = (own: Record<string, string | number> = { Shelf: 'B2', Tower: 4 }): History =>
  new History(rules, author, { approvers: [] }).create(content('x'), {
    title: 'Tower 4',
    type: 'Drawing',
    own,
  });
const change = (history: History, own: Parameters<typeof refuseValues>[1], more: object = {}) =>
  changeFields(history.state, author, { fields: { own, ...more }, comment: '' }, history.now);

test('a field is a version; an administrative one is the document’s, kept in the Ledger', () => {
  const one = begun();
  expect(one.state.administrative).toEqual({ Shelf: 'B2' });
  expect(one.state.latest.fields.own).toEqual({ Tower: 4 });
  one.do(change(one, { Tower: 5, Contractor: 'Seilbau' }));
  expect(one.labels).toEqual(['0.1', '0.2']);
  expect(one.state.latest).toMatchObject({
    comment: 'Changed Tower, Contractor',
    origin: { kind: 'fields' },
    fields: { own: { Tower: 5, Contractor: 'Seilbau' } },
  });
  const moved = change(one, { Shelf: 'C1' });
  expect(moved).toMatchObject({
    ledger: { act: 'fields', facts: { administrative: { Shelf: { from: 'B2', to: 'C1' } } } },
  });
  one.do(moved);
  expect(one.labels).toEqual(['0.1', '0.2']);
  expect(one.state.administrative).toEqual({ Shelf: 'C1' });
  expect(codeOf(change(one, { Shelf: 'C1' }))).toBe('nothing-changed');
});

test('what is needed cannot be emptied, nor come to be missing by another type; what lacked it before may stay so', () => {
  const one = begun();
  expect(change(one, { Tower: null })).toMatchObject({
    code: 'fields-missing',
    facts: { missing: ['Tower'] },
  });
  expect(codeOf(change(one, { Shelf: null }))).toBe('fields-missing');
  expect(codeOf(change(one, { Tower: null }, { type: 'Notice' }))).toBeNull();
  const wanted = { fields: rules.fields.map((each) => ({ ...each, requiredFor: 'all' as const })) };
  const lacking = { ...one.state, rules: completeRulebook(wanted) };
  const asked = { fields: { own: { Tower: 9 } }, comment: '' };
  expect(codeOf(changeFields(lacking, author, asked, one.now))).toBeNull();
});

test('a field that became administrative shows its new value over the version’s, and empties in a version', () => {
  const was = { Shelf: 'A1', Tower: 4 };
  expect(shownValues(rules, was, { Shelf: 'B2' })).toEqual({ Shelf: 'B2', Tower: 4 });
  const versioned = {
    fields: rules.fields.map((one) => ({ ...one, administrative: false, requiredFor: [] })),
  };
  // Of one that is versioned again, the version says it.
  expect(shownValues(versioned, was, { Shelf: 'B2', Note: 'n' })).toEqual({ ...was, Note: 'n' });
  const one = begun();
  const apart = { fields: [field('Tower', { kind: 'number', administrative: true })] };
  const now = { ...one.state, rules: completeRulebook(apart) };
  const emptied = changeFields(now, author, { fields: { own: { Tower: null } }, comment: '' }, one.now);
  expect(emptied).toMatchObject({
    changes: [{ kind: 'addVersion', version: { fields: { title: 'Tower 4', type: 'Drawing' } } }],
  });
});

test('whoever may not change the document is refused first', () => {
  const one = begun();
  const asked = { fields: { own: { Colour: 'x' } }, comment: '' };
  expect(codeOf(changeFields(one.state, actor('r', 'reader'), asked, one.now))).toBe('role-missing');
});

test('the words of fields are found, people and yes or no are not', () => {
  const own = { Tower: 4, Part: ['Ropes', 'Haul rope'], By: { person: 'p-1' }, Wet: true };
  expect(findableWords('OP-001', { title: 'x', own }, '')).toEqual(
    expect.arrayContaining(['4', 'ropes', 'haul', 'rope']),
  );
  expect(findableWords('OP-001', { title: 'x', own }, '')).not.toContain('true');
  expect(valueWords(own.Part, () => '')).toBe('Ropes · Haul rope');
  expect(valueWords(own.By, (id) => `name of ${id}`)).toBe('name of p-1');
  expect(valueWords(true, () => '')).toBe('yes');
});

test('a change of fields says what becomes of what is filled in', () => {
  const before = completeRulebook(rules);
  const after = completeRulebook({
    fields: [field('Tower', { requiredFor: 'all' }), field('Contractor', { requiredFor: ['Drawing'] })],
  });
  const facts = { documents: 1, openDrafts: 0, withoutApprover: 0, larger: 0, bytesAfter: 0 };
  expect(notesOn(before, after, facts).map(({ code }) => code)).toEqual([
    'fields-go',
    'fields-required',
    'fields-change-kind',
  ]);
  expect(notesOn(before, before, facts)).toEqual([]);
});

test('patterns make numbers, and what makes none is refused', () => {
  expect(readPattern('OP-###')).toEqual({ before: 'OP-', digits: 3, after: '' });
  expect(readPattern('OP/##/A')).toEqual({ before: 'OP/', digits: 2, after: '/A' });
  for (const none of [
    'OP',
    '##-##',
    'OP2###',
    '###7',
    'O P-#',
    '',
    '-#',
    '#'.repeat(10),
    `${'x'.repeat(40)}#`,
  ])
    expect([none, readPattern(none)]).toEqual([none, null]);
  expect(numberBy({ before: 'OP-', digits: 3, after: '' }, 7)).toBe('OP-007');
  expect(numberBy({ before: 'OP-', digits: 3, after: '' }, 1234)).toBe('OP-1234');
  const patterns: NumberPattern[] = [
    { type: 'Drawing', pattern: 'DRW-####' },
    { type: null, pattern: 'GEN-##' },
  ];
  expect(refusePatterns(patterns)).toBeNull();
  expect(patternFor(patterns, 'OP', 'drawing').before).toBe('DRW-');
  expect(patternFor(patterns, 'OP', 'Notice').before).toBe('GEN-');
  expect(patternFor([], 'OP', 'Notice')).toEqual({ before: 'OP-', digits: 3, after: '' });
  expect(codeOf(refusePatterns([{ type: 'Drawing', pattern: 'x' }]))).toBe('number-pattern-unfit');
  expect(codeOf(refusePatterns([...patterns, { type: 'DRAWING', pattern: 'D-#' }]))).toBe(
    'number-pattern-twice',
  );
  for (const unfit of ['x', [{ pattern: 'D-#' }], [{ type: 'x', pattern: 'D-#', by: 1 }]])
    expect(codeOf(refusePatterns(unfit))).toBe('rule-value-unknown');
});

test('what a change leaves is never missing anew, whatever is asked for', () => {
  const values = fc.dictionary(fc.constantFrom('Tower', 'Contractor', 'Shelf'), fc.option(fc.constant('x')));
  fc.assert(
    fc.property(values, fc.constantFrom('Drawing', 'Notice', null), (asked, type) => {
      const one = begun();
      const own = Object.fromEntries(
        Object.entries(asked).map(([name, value]) => [name, name === 'Tower' && value ? 7 : value]),
      );
      const outcome = change(one, own, { type });
      if (isRefusal(outcome)) return ['fields-missing', 'nothing-changed'].includes(outcome.code);
      one.do(outcome);
      const { latest, administrative } = one.state;
      const shown = shownValues(rules, latest.fields.own ?? {}, administrative);
      return missingFields(rules, latest.fields, shown).length === 0;
    }),
  );
});
