import { titleOf } from './titleOf.ts';

test.each([
  ['IN-020 Rope_inspection.docx', 'Rope inspection'],
  ['Shift form.txt', 'Shift form'],
  ['RP-7.md', ''],
  ['no ending', 'no ending'],
  ['a.b.csv', 'a.b'],
  ['2026 wind limits.xlsx', '2026 wind limits'],
])('%s is titled “%s”', (fileName, title) => {
  expect(titleOf(fileName)).toBe(title);
});
