import { isRefusal } from '../document/refusal.ts';
import { isAutomatic, readAnswer } from './answer.ts';

const said = (text: string) => {
  const answer = readAnswer(text);
  return isRefusal(answer) ? answer.code : answer;
};

test.each([
  ['approve', 'approve', ''],
  ['Approved.', 'approve', ''],
  ['APPROVE: span table checked\r\n', 'approve', 'span table checked'],
  ['reject – the span table\nis incomplete', 'reject', 'the span table is incomplete'],
  ['\n\n  Later, I am on tower 7 today\n', 'later', 'I am on tower 7 today'],
  ['“Approve”', 'approve', ''],
  ['approve\nfits the drawings', 'approve', 'fits the drawings'],
  ['Approved - fits', 'approve', 'fits'],
  ['reject -wrong page', 'reject', 'wrong page'],
  ['*Reject* ; wrong page', 'reject', 'wrong page'],
])('%j says %s with %j', (text, decision, comment) => {
  expect(said(text)).toEqual({ decision, comment });
});

test('what is quoted of the message and the signature are no part of it (RFC 3676, 4.3 and 4.5)', () => {
  const answer = [
    'approve: fits the drawings',
    '',
    '-- ',
    'L. Achterberg, reject nothing',
    '',
    'On Mon, 2 Mar 2026 at 09:00, Polychron wrote:',
    '> OP-001 1.1 waits for your decision.',
  ];
  expect(said(answer.join('\r\n'))).toEqual({ decision: 'approve', comment: 'fits the drawings' });
  expect(said(`reject, wrong page\n> approve`)).toEqual({ decision: 'reject', comment: 'wrong page' });
  expect(said('> approve\n')).toBe('answer-unclear');
});

test.each([
  ...['', 'I approve of it', 'yes', '??', 'approval follows', 'ok, reject'],
  ...[
    'Approved leave: I am out of office',
    'approve of what?',
    'later today',
    'Approve-me',
    'rejected by none',
  ],
])('%j does not say what is decided', (text) => {
  expect(said(text)).toBe('answer-unclear');
});

test.each([
  [[], false],
  [[['Auto-Submitted', 'no']], false],
  [[['auto-submitted', ' No ; owner=me']], false],
  [[['AUTO-SUBMITTED', 'no (by hand)']], false],
  [[['Auto-Submitted', 'auto-replied']], true],
  [[['Auto-Submitted', 'auto-generated; x=y']], true],
  [[['Auto-Submitted', 'nobody']], true],
  [[['Auto-Submitted', '']], true],
  [
    [
      ['Auto-Submitted', 'no'],
      ['Auto-Submitted', 'auto-notified'],
    ],
    true,
  ],
  [[['Content-Type', 'multipart/report; report-type=delivery-status']], true],
  [[['Content-Type', 'multipart/mixed']], false],
  [[['Return-Path', '<>']], true],
  [[['Return-Path', '<someone@elsewhere.example>']], false],
] as [[string, string][], boolean][])(
  'a message with %j is written by a program: %s (RFC 3834, 2 and 5)',
  (given, is) => {
    expect(isAutomatic(given.map(([key, value]) => ({ key, value })))).toBe(is);
  },
);
