import { sectionsOf } from './sections.ts';

type Item = Parameters<typeof sectionsOf>[0][number];
const item = (number: string, code: string, subject: string[]): Item => ({
  document: { id: number, number, title: number, library: { id: code, code, name: `Library ${code}` } },
  version: '1.0',
  versionId: number,
  fileName: 'x.docx',
  type: null,
  subject,
  since: '2026-11-28T12:00:00Z',
  comment: '',
  new: false,
  toRead: false,
  before: null,
});

test('by library, then by the first subject and the second; what has none comes last, or first among its own', () => {
  const sections = sectionsOf([
    item('B-1', 'B', ['wind']),
    item('A-1', 'A', []),
    item('A-6', 'A', ['zones']),
    item('A-2', 'A', ['rope', 'splices']),
    item('A-3', 'A', ['rope']),
    item('A-4', 'A', ['rope', 'grease']),
    item('A-5', 'A', ['cabins', 'doors']),
  ]);
  expect(
    sections.map(({ library, subject, groups }) => [
      library.code,
      subject,
      groups.map((group) => [group.subject, group.items.map(({ document }) => document.number)]),
    ]),
  ).toEqual([
    ['A', 'cabins', [['doors', ['A-5']]]],
    [
      'A',
      'rope',
      [
        [null, ['A-3']],
        ['grease', ['A-4']],
        ['splices', ['A-2']],
      ],
    ],
    ['A', 'zones', [[null, ['A-6']]]],
    ['A', 'without a subject', [[null, ['A-1']]]],
    ['B', 'wind', [[null, ['B-1']]]],
  ]);
});
