import { groupsOf } from './groups.ts';

const item = (label: string, id = 'a', until = '2027-01-01T00:00:00Z') => ({
  document: { id, number: 'OP-001', title: 'Brakes' },
  versionId: `${id} ${label}`,
  label,
  state: 'superseded',
  size: 1,
  comment: '',
  thinned: { at: '2026-12-01T00:00:00Z', until, why: '' },
});
const labels = (...items: ReturnType<typeof item>[]): string[][] =>
  groupsOf(items).map((group) => group.items.map(({ label }) => label));

test('a publication and the drafts that led to it are one row', () => {
  expect(labels(item('1.1'), item('1.2'), item('2.0'), item('2.1'), item('3.0'))).toEqual([
    ['1.1', '1.2', '2.0'],
    ['2.1', '3.0'],
  ]);
  expect(groupsOf([item('1.1'), item('2.0')])[0]?.head.label).toBe('2.0');
});

test('other documents, other ends, whole numbers and versions without a number stand alone', () => {
  expect(labels(item('0.1'), item('1.0', 'b'))).toEqual([['0.1'], ['1.0']]);
  expect(labels(item('0.1'), item('1.0', 'a', '2027-01-02T00:00:00Z'))).toEqual([['0.1'], ['1.0']]);
  expect(labels(item('1'), item('2'), item('u3'), item('u4'))).toEqual([['1'], ['2'], ['u3'], ['u4']]);
});
