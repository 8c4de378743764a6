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

/** The deciding word: alone on its line, or with a sign of punctuation behind it. */
const decides =
  /^["“*]*(\p{L}+)["”*]*(?:[ \t]*(?=\n|$)|[ \t]*(?:[:,.;!–—]|-(?=\s)|(?<=[ \t])-))[\s:,.;!–—-]*([\s\S]*)$/u;

/**
 * What an answer to a message says: its first word decides where it stands alone on its line or before a sign
 * of punctuation, the rest is the comment. "Approved leave" decides nothing. What it quotes of the message,
 * and the signature, are left out.
 */
export function readAnswer(text: string): Answer | Refusal {
  const lines = text.replace(/\r\n?/g, '\n').split('\n');
  const end = lines.findIndex((line) => quotes.test(line) || signature.test(line));
  const own = (end < 0 ? lines : lines.slice(0, end)).join('\n').trim();
  const [, word = '', rest = ''] = decides.exec(own) ?? [];
  const decision = decisions.get(word.toLowerCase());
  if (!decision) {
    const reason =
      'The answer does not say what you decide. Begin it with “approve”, “reject” or “later”, and a colon or a new line behind the word; the rest is your comment.';
    return refuse('invalid', 'answer-unclear', reason);
  }
  return { decision, comment: rest.replace(/\s*\n\s*/g, ' ').trim() };
}

/** Fields of a message's head by which it says that no person wrote it; names in any case. */
export type MailHeaders = readonly { key: string; value: string }[];

/**
 * Whether a message was written by a program: it says so (RFC 3834, 5: `Auto-Submitted` other than `no`), is
 * a report about a message (RFC 6522, 3), or comes from nobody who could be told (RFC 3834, 2: an empty
 * return path). Such a message decides nothing, whatever it says.
 */
export function isAutomatic(headers: MailHeaders): boolean {
  const valuesOf = (name: string): string[] =>
    headers.filter(({ key }) => key.toLowerCase() === name).map(({ value }) => value.trim().toLowerCase());
  return (
    valuesOf('auto-submitted').some((value) => !/^no\s*(;|\(|$)/.test(value)) ||
    valuesOf('content-type').some((value) => value.startsWith('multipart/report')) ||
    valuesOf('return-path').some((value) => /^<\s*>$/.test(value))
  );
}
