import { type Refusal, refuse } from '../document/refusal.ts';
import type { ApprovalDecision } from '../rules/approvalRun.ts';

/** A decision as somebody wrote it in an answer to a message. */
export interface Answer {
  decision: ApprovalDecision;
  comment: string;
}

/** Words an answer may begin with, and what they say. */
const decisions: ReadonlyMap<string, ApprovalDecision> = new Map([
  ['approve', 'approve'],
  ['approved', 'approve'],
  ['reject', 'reject'],
  ['rejected', 'reject'],
  ['later', 'later'],
]);

/** Where the words of an earlier message begin: a line that quotes (RFC 3676, 4.5) or leads to one. */
const quotes = /^(>|On .+ wrote:\s*$|-{2,}\s*Original Message\s*-{2,}|_{10,}\s*$)/;
/** Where a signature begins (RFC 3676, 4.3). */
const signature = /^-- ?$/;

/**
 * What an answer to a message says: its first word decides, the rest is the comment. What it quotes of the
 * message, and the signature, are left out.
 */
export function readAnswer(text: string): Answer | Refusal {
  const lines = text.replace(/\r\n?/g, '\n').split('\n');
  const end = lines.findIndex((line) => quotes.test(line) || signature.test(line));
  const own = (end < 0 ? lines : lines.slice(0, end)).join('\n').trim();
  const [, word = '', rest = ''] = /^["“*]*(\p{L}+)["”*]*[\s:,.;!–—-]*([\s\S]*)$/u.exec(own) ?? [];
  const decision = decisions.get(word.toLowerCase());
  if (!decision) {
    const reason =
      'The answer does not say what you decide. Begin it with “approve”, “reject” or “later”; the words behind are your comment.';
    return refuse('invalid', 'answer-unclear', reason);
  }
  return { decision, comment: rest.replace(/\s*\n\s*/g, ' ').trim() };
}
