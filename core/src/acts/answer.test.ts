import { isRefusal } from '../document/refusal.ts';
import { readAnswer } from './answer.ts';

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
])('%j says %s with %j', (text, decision, comment) => {
  expect(said(text)).toEqual({ decision, comment });
});

test('what is quoted of the message and the signature are no part of it (RFC 3676, 4.3 and 4.5)', () => {
  const answer = [
    'approve fits the drawings',
    '',
    '-- ',
    'L. Achterberg, reject nothing',
    '',
    'On Mon, 2 Mar 2026 at 09:00, Polychron wrote:',
    '> OP-001 1.1 waits for your decision.',
  ];
  expect(said(answer.join('\r\n'))).toEqual({ decision: 'approve', comment: 'fits the drawings' });
  expect(said(`reject wrong page\n> approve`)).toEqual({ decision: 'reject', comment: 'wrong page' });
  expect(said('> approve\n')).toBe('answer-unclear');
});

test.each(['', 'I approve of it', 'yes', '??', 'approval follows', 'ok, reject'])(
  '%j does not say what is decided',
  (text) => {
    expect(said(text)).toBe('answer-unclear');
  },
);
