import { isRefusal, type Refusal } from '../document/refusal.ts';
import { refuseFull, refuseTooLarge } from './allowance.ts';
import { callApprovers } from './approvalRun.ts';
import { controlFields, controlKey, refuseControlNames, usualControlNames } from './controlNames.ts';
import { labelsToCome, levelOf, refuseLevel } from './levels.ts';
import { patternFor, refusePatterns } from './numberPatterns.ts';
import {
  admitFields,
  isEmptyValue,
  type OwnField,
  refuseMissing,
  refuseValues,
  shownValues,
  splitByKeeping,
} from './ownFields.ts';
import { refuseByRole, rolesInWords } from './roles.ts';
import { completeRulebook } from './rulebook.ts';

/** What is refused among rules, fields and values: each by its own sentence, code and facts. */
const said = (answer: unknown): string | null => {
  if (!isRefusal(answer as Refusal)) return null;
  const { kind, code, reason } = answer as Refusal;
  return `${kind} ${code}: ${reason}`;
};
const factsOf = (answer: unknown): unknown => (answer as Refusal).facts;
const field = (more: object = {}): object => ({ name: 'Tower', kind: 'text', ...more });

describe('fields of a library', () => {
  const unfit = 'invalid field-unfit: fields ';
  test.each<[unknown, string]>([
    ['x', 'invalid rule-value-unknown: fields is a list of the fields of the library.'],
    [
      Array.from({ length: 41 }, (_, at) => field({ name: `F${at}` })),
      `${unfit}names 41; at most 40 are kept.`,
    ],
    [
      [field({ name: 'Owner' })],
      `${unfit}calls one “Owner”, which every document has already. Choose another name.`,
    ],
    [[field(), field({ name: 'TOWER' })], 'invalid field-twice: fields names “TOWER” twice. Name each once.'],
    [[null], `${unfit}holds one without a name of 1 to 60 characters.`],
    [[field({ name: ' ' })], `${unfit}holds one without a name of 1 to 60 characters.`],
    [[field({ name: 'x'.repeat(61) })], `${unfit}holds one without a name of 1 to 60 characters.`],
    [[field({ name: 'a\u0007' })], `${unfit}holds one without a name of 1 to 60 characters.`],
    [[field({ name: '\u0007a' })], `${unfit}holds one without a name of 1 to 60 characters.`],
    [[field({ colour: 1 })], `${unfit}holds “Tower”, of which colour is said; a field has no such thing.`],
    [
      [field({ kind: 'colour' })],
      `${unfit}holds “Tower”, which is none of text, number, date, person, choice, yesNo.`,
    ],
    ...[5, ['a', 'a'], [{ name: 'a', within: 'b' }], [null], [{ name: '', within: [] }], ['a', ' ']].map(
      (choices): [unknown, string] => [
        [field({ kind: 'choice', choices })],
        `${unfit}holds “Tower”, whose choices are not a list of different names, each with the names within it.`,
      ],
    ),
    [
      [field({ kind: 'choice', choices: Array.from({ length: 201 }, (_, at) => `c${at}`) })],
      `${unfit}holds “Tower”, whose choices are not a list of different names, each with the names within it.`,
    ],
    [[field({ kind: 'choice' })], `${unfit}holds “Tower”, of which nothing can be chosen. Name the choices.`],
    [[field({ choices: ['a'] })], `${unfit}holds “Tower”, which is no choice and yet names some.`],
    [
      [field({ requiredFor: 'some' })],
      `${unfit}holds “Tower”, of which requiredFor is neither all nor a list of types of documents.`,
    ],
    [
      [field({ requiredFor: Array.from({ length: 201 }, (_, at) => `t${at}`) })],
      `${unfit}holds “Tower”, of which requiredFor is neither all nor a list of types of documents.`,
    ],
    [[field({ administrative: 1 })], `${unfit}holds “Tower”, of which administrative is neither yes nor no.`],
  ])('%j', (given, sentence) => expect(said(admitFields(given))).toBe(sentence));

  test('what is at the edge is taken, and names lose the spaces around them', () => {
    expect(admitFields(Array.from({ length: 40 }, (_, at) => field({ name: `F${at}` })))).toHaveLength(40);
    expect(admitFields([field({ name: 'x'.repeat(60), requiredFor: 'all' })])).toMatchObject([
      { requiredFor: 'all' },
    ]);
    const most = Array.from({ length: 200 }, (_, at) => `c${at}`);
    expect(admitFields([field({ kind: 'choice', choices: most })])).toMatchObject([{ kind: 'choice' }]);
    expect(admitFields([field({ requiredFor: most })])).toMatchObject([{ requiredFor: most }]);
    const read = admitFields([
      field({ name: ' Part ', kind: 'choice', choices: [' a ', { name: 'b', within: ['c'] }] }),
    ]);
    expect(read).toMatchObject([
      {
        name: 'Part',
        choices: [
          { name: 'a', within: [] },
          { name: 'b', within: ['c'] },
        ],
      },
    ]);
  });
});

describe('values of fields', () => {
  const of = (more: object): OwnField =>
    ({ name: 'F', kind: 'text', choices: [], requiredFor: [], administrative: false, ...more }) as OwnField;
  const fields = [
    of({ name: 'Text' }),
    of({ name: 'Count', kind: 'number' }),
    of({ name: 'Day', kind: 'date' }),
    of({ name: 'Whose', kind: 'person' }),
    of({
      name: 'Part',
      kind: 'choice',
      choices: [
        { name: 'Ropes', within: ['Haul'] },
        { name: 'Towers', within: [] },
      ],
    }),
    of({ name: 'Checked', kind: 'yesNo', administrative: true }),
  ];
  const unfit = (name: string, what: string): string =>
    `invalid field-value-unfit: “${name}” is ${what}; what was given is not.`;
  const choice = unfit('Part', 'one of the names there are to choose, and one within it where it is parted');
  const day = unfit('Day', 'a date such as 2026-03-31');
  test.each<[string, unknown, string | null]>([
    ['Text', 'x'.repeat(2000), null],
    ['Text', 'x'.repeat(2001), unfit('Text', 'a text of up to 2000 characters')],
    ['Text', 5, unfit('Text', 'a text of up to 2000 characters')],
    ['Count', 12.5, null],
    ['Count', Infinity, unfit('Count', 'a number')],
    ['Count', '5', unfit('Count', 'a number')],
    ['Day', '2028-02-29', null],
    ['Day', '2026-02-29', day],
    ['Day', 'on 2026-03-31', day],
    ['Day', '2026-03-31T00:00', day],
    ['Day', '-002026-03-31', day],
    ['Day', 20260331, day],
    ['Whose', { person: 'a' }, null],
    ['Whose', 'a', unfit('Whose', 'a person of the library, by account')],
    ['Whose', ['a'], unfit('Whose', 'a person of the library, by account')],
    ['Part', ['Ropes', 'Haul'], null],
    ['Part', ['Towers'], null],
    ['Part', ['Towers', 'Haul'], choice],
    ['Part', ['Ropes', 'Haul', 'Haul'], choice],
    ['Part', ['Masts'], choice],
    ['Part', 'Ropes', choice],
    ['Part', { person: 'a' }, choice],
    ['Checked', false, null],
    ['Checked', 'yes', unfit('Checked', 'yes or no (true or false)')],
    ['Text', ' ', null],
    ['Part', [], null],
    ['Gone', null, null],
    ['Gone', ' ', null],
    [
      'Gone',
      'x',
      'invalid field-unknown: This library has no field “Gone”. It has Text, Count, Day, Whose, Part, Checked.',
    ],
  ])('%s: %j', (name, value, sentence) => {
    const answer = refuseValues({ fields }, { [name]: value as never });
    expect(said(answer)).toBe(sentence);
    if (sentence && name !== 'Gone')
      expect(factsOf(answer)).toEqual({ field: name, kind: fields.find((one) => one.name === name)?.kind });
    if (sentence && name === 'Gone') expect(factsOf(answer)).toEqual({ field: 'Gone' });
  });
  test('a library without fields says so', () =>
    expect(said(refuseValues({ fields: [] }, { Gone: 'x' }))).toBe(
      'invalid field-unknown: This library has no field “Gone”. It has none of its own.',
    ));
  test.each([
    ['', true],
    [' ', true],
    [[], true],
    [['a'], false],
    ['a', false],
    [0, false],
    [false, false],
  ])('%j is nothing filled in: %s', (value, empty) => expect(isEmptyValue(value as never)).toBe(empty));

  test('values are parted by what their field says, unknown ones among those of the version', () => {
    const values = { Text: 1, Checked: 2, Gone: 3 };
    expect(splitByKeeping({ fields }, values)).toEqual({
      versioned: { Text: 1, Gone: 3 },
      administrative: { Checked: 2 },
    });
    // An administrative value goes over the version's; another only where the version says nothing.
    const version = { Text: 'a', Checked: true, Gone: 'b' };
    expect(shownValues({ fields }, version, { Text: 'c', Checked: false, Gone: 'd', Left: 'e' })).toEqual({
      Text: 'a',
      Checked: false,
      Gone: 'b',
      Left: 'e',
    });
  });

  test.each<[string[], string | undefined, string | null]>([
    [[], 'Plan', null],
    [['A'], undefined, 'invalid fields-missing: A document here needs A. Fill that in.'],
    [['A', 'B'], '', 'invalid fields-missing: A document here needs A and B. Fill that in.'],
    [
      ['A', 'B', 'C'],
      'Plan',
      'invalid fields-missing: A document of the type “Plan” needs A, B and C. Fill that in.',
    ],
  ])('%j missing', (missing, type, sentence) => expect(said(refuseMissing(missing, type))).toBe(sentence));
});

describe('number patterns', () => {
  const list =
    'invalid rule-value-unknown: numberPatterns is a list of at most 50 {type, pattern}; type null means all others.';
  const unfit = (pattern: string): string =>
    `invalid number-pattern-unfit: numberPatterns holds “${pattern}”. A pattern is letters, digits and . / _ - with one run of # for the digits, such as OP-###, and no other digit beside them.`;
  const one = (pattern: unknown, type: unknown = null): object => ({ type, pattern });
  test.each<[unknown, string | null]>([
    [[], null],
    [5, list],
    [Array.from({ length: 51 }, (_, at) => one('A#', `t${at}`)), list],
    [Array.from({ length: 50 }, (_, at) => one('A#', `t${at}`)), null],
    [[one(5)], list],
    [[one('A#', '')], list],
    [[one('A#', ' ')], list],
    [[one('A#', 'x'.repeat(61))], list],
    [[one('A#', 'x'.repeat(60))], null],
    [[{ type: null, pattern: 'A#', more: 1 }], list],
    [[one('A')], unfit('A')],
    [[one('A1#')], unfit('A1#')],
    [[one('A#1')], unfit('A#1')],
    [[one('1A#B2')], null],
    [[one(`${'A'.repeat(35)}#`)], null],
    [[one(`${'A'.repeat(36)}#`)], unfit(`${'A'.repeat(36)}#`)],
    [
      [one('A#', 'Plan'), one('B#', ' PLAN ')],
      'invalid number-pattern-twice: numberPatterns names  PLAN  twice. Name each once.',
    ],
    [
      [one('A#'), one('B#')],
      'invalid number-pattern-twice: numberPatterns names all others twice. Name each once.',
    ],
  ])('%j', (given, sentence) => expect(said(refusePatterns(given))).toBe(sentence));

  test('a type finds its pattern whatever its capitals; without one that of all others, or of the code', () => {
    const patterns = [
      { type: 'Straße', pattern: 'S#' },
      { type: null, pattern: 'O##' },
    ];
    expect(patternFor(patterns, 'OP', 'STRAßE')).toEqual({ before: 'S', digits: 1, after: '' });
    expect(patternFor(patterns, 'OP', undefined)).toEqual({ before: 'O', digits: 2, after: '' });
    expect(patternFor([], 'OP', 'Plan')).toEqual({ before: 'OP-', digits: 3, after: '' });
    expect(patternFor([{ type: 'Plan', pattern: '#' }], 'OP', undefined)).toEqual({
      before: 'OP-',
      digits: 3,
      after: '',
    });
  });
});

describe('names in issued copies', () => {
  const unfit = (name: string): string =>
    `invalid control-name-unfit: controlNames.title is a name of up to 40 letters, digits, spaces and _ . -, such as “${name}”.`;
  test.each<[unknown, string | null]>([
    ['Title', null],
    ['x'.repeat(40), null],
    ['x'.repeat(41), unfit('Document title')],
    ['', unfit('Document title')],
    [' Title', unfit('Document title')],
    ['Title!', unfit('Document title')],
    ['-Title', unfit('Document title')],
    ['1. Title_-', null],
    [5, unfit('Document title')],
    [
      'document_NUMBER',
      'invalid control-name-twice: “document_NUMBER” names two things in issued copies. Give each a name of its own.',
    ],
  ])('%j', (title, sentence) =>
    expect(said(refuseControlNames({ ...usualControlNames, title }))).toBe(sentence),
  );
  test('all are wanted', () => {
    expect(said(refuseControlNames(null))).toMatch(/controlNames\.number is a name/);
    expect(controlFields).toHaveLength(8);
  });
  test('spaces, lines below and capitals make no other name', () =>
    expect(['Document  title', 'DOCUMENT_title', 'Document _ Title'].map(controlKey)).toEqual(
      Array.from({ length: 3 }, () => 'documenttitle'),
    ));
});

test('a level is chosen where there are two, and is none where there is one', () => {
  const of = (numbering: 'stepped' | 'whole' | 'none', level?: 'minor' | 'major') =>
    said(refuseLevel({ numbering }, level));
  expect([of('stepped', 'minor'), of('stepped', 'major'), of('whole', 'major'), of('whole')]).toEqual([
    null,
    null,
    null,
    null,
  ]);
  expect(of('stepped')).toBe(
    'invalid level-missing: Choose a level: minor makes a draft, major asks for publication.',
  );
  expect(of('whole', 'minor')).toBe(
    'invalid no-minor-level: This library numbers versions 1, 2, 3; there is no minor level. Choose major.',
  );
  expect(of('none', 'minor')).toBe(
    'invalid no-minor-level: This library gives versions no numbers; there is no minor level. Choose major.',
  );
  expect([levelOf(undefined), levelOf('minor')]).toEqual(['major', 'minor']);
});

test('the labels to come after none, and where approval is on', () => {
  const rules = (numbering: 'stepped' | 'whole', on: boolean) => ({ numbering, approval: { on } });
  expect(labelsToCome(rules('stepped', true), null, 1)).toEqual({
    minor: '0.1',
    major: '1.0',
    submittedAs: '0.1',
  });
  expect(labelsToCome(rules('whole', true), null, 1)).toEqual({ minor: null, major: '1', submittedAs: '1' });
  expect(labelsToCome(rules('whole', false), null, 1)).toEqual({
    minor: null,
    major: '1',
    submittedAs: null,
  });
});

test('a file too large, and a library that is full, say the figures', () => {
  const rules = completeRulebook({ maxFileBytes: 10, allowanceBytes: 20 });
  expect(refuseTooLarge(rules, 10)).toBeNull();
  expect(refuseTooLarge(completeRulebook({}), 1e15)).toBeNull();
  const large = refuseTooLarge(rules, 11);
  expect(said(large)).toBe(
    'invalid file-too-large: The file is too large: 11 bytes; this library accepts files up to 10 bytes.',
  );
  expect(factsOf(large)).toEqual({ size: 11, maxFileBytes: 10 });
  expect([
    refuseFull(rules, 15, 5),
    refuseFull(rules, null, 500),
    refuseFull(completeRulebook({}), 15, 500),
  ]).toEqual([null, null, null]);
  expect(said(refuseFull(rules, 15, 6))).toBe(
    'conflict library-full: The library is full: it keeps 15 bytes of 20 bytes, and this version needs 6 bytes. A controller can thin old versions, tighten the limits or raise the allowance.',
  );
});

test('roles in a sentence', () => {
  expect([
    rolesInWords([]),
    rolesInWords(['author']),
    rolesInWords(['reader', 'author', 'controller']),
  ]).toEqual(['', 'authors', 'readers, authors and controllers']);
  const refused = refuseByRole({ roles: new Set(['reader']) }, 'publish', 'Publishing');
  expect(said(refused)).toBe(
    'forbidden role-missing: Publishing is for authors and controllers of this library.',
  );
  expect(factsOf(refused)).toEqual({ needs: 'authors and controllers' });
  expect(refuseByRole({ roles: new Set(['reader', 'author']) }, 'publish', 'Publishing')).toBeNull();
});

test('a run that nobody could decide says whom it asked, and who names others', () => {
  const rules = completeRulebook({});
  const facts = {
    label: '0.1',
    authorId: 'a',
    ownerId: 'o',
    coAuthorIds: [],
    holderId: null,
    circle: null,
    voided: false,
  };
  const named = [
    { id: 'a', name: 'A', roles: new Set(['approver' as const]) },
    { id: 'r', name: 'R', roles: new Set(['reader' as const]) },
  ];
  const refused = callApprovers(rules, named, facts, 'O. Owner');
  expect(said(refused)).toBe(
    "conflict no-approver: Of the named approvers (A, R) none could decide: an approver needs the role, must see versions in approval, and may not be the version's author here. O. Owner can name approvers for the document, a controller can name them in the Rulebook.",
  );
  expect(factsOf(refused)).toEqual({ named: ['A', 'R'] });
  expect(said(callApprovers(rules, [], facts, 'O. Owner'))).toMatch(
    /^conflict no-approver: No approver is named\. O/,
  );
});
