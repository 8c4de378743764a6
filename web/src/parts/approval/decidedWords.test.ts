import { moment } from '../../ui/when.ts';
import { decidedWords } from './decidedWords.ts';

const at = '2026-11-03T09:12:00.000Z';
const agreed = {
  account: 'a',
  name: 'A. Kilbride',
  decision: 'approve',
  at,
  comment: '',
  inPlace: false,
} as const;
const silent = {
  account: 'e',
  name: 'E. Ross',
  decision: null,
  at: null,
  comment: '',
  inPlace: false,
} as const;

test('one sentence names who decided and when; who was asked and said nothing is no part of it', () => {
  expect(decidedWords({ outcome: 'approved', posts: [agreed, silent] })).toBe(
    `Approved: A. Kilbride approved ${moment(at)}`,
  );
  const rejected = { ...silent, decision: 'reject', at } as const;
  expect(decidedWords({ outcome: 'rejected', posts: [agreed, rejected] })).toBe(
    `Rejected: A. Kilbride approved ${moment(at)}, E. Ross rejected ${moment(at)}`,
  );
  expect(decidedWords({ outcome: 'calledBack', posts: [silent] })).toBe('The submission was taken back');
});

test('a decision in the place of others says so', () => {
  const instead = { ...agreed, name: 'T. Brandvold', inPlace: true } as const;
  expect(decidedWords({ outcome: 'approved', posts: [silent, instead] })).toBe(
    `Approved: T. Brandvold approved in the place of those asked ${moment(at)}`,
  );
});
