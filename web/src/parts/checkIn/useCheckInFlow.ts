import type { Document, Version } from '@polychron/contract';
import { isCheckInQuestion, type Level, numberWords } from '@polychron/core';
import type { MessageInstance } from 'antd/es/message/interface';
import { useState } from 'react';
import { ProblemError } from '../../ui/api.ts';

/** A way of making the next version: what is sent, what was asked back, and what came of it. */
export interface CheckInFlow<Command> {
  busy: boolean;
  /** Why nothing was made, or null; `question` where a yes would do. */
  problem: unknown;
  question: { code: string; detail: string } | null;
  send: (command: Command) => Promise<void>;
  /** Sends the same again, with what was asked confirmed. */
  sayYes: () => void;
  /** Says why nothing was sent. */
  say: (problem: unknown) => void;
}

/**
 * Makes a version by `send`; what the server asks first is held until a yes, and the yeses add up. The
 * command is whatever `send` needs; it is given again with every confirmation. What was said about one file
 * is not said about the next.
 */
export function useCheckInFlow<Command>(
  send: (command: Command, confirm: string[]) => Promise<void>,
  file: File | null = null,
): CheckInFlow<Command> {
  const [said, setSaid] = useState<{ problem: unknown; file: File | null } | null>(null);
  const problem = said?.file === file ? said.problem : null;
  const setProblem = (what: unknown): void => setSaid({ problem: what, file });
  const [busy, setBusy] = useState(false);
  const [asked, setAsked] = useState<{ command: Command; confirm: string[] } | null>(null);
  const run = async (command: Command, confirm: string[]): Promise<void> => {
    setBusy(true);
    setProblem(null);
    setAsked({ command, confirm });
    try {
      await send(command, confirm);
    } catch (refusal) {
      setProblem(refusal);
    } finally {
      setBusy(false);
    }
  };
  const refused = problem instanceof ProblemError ? problem.problem : null;
  const question = refused && isCheckInQuestion(refused.code) ? refused : null;
  return {
    busy,
    problem: question ? null : problem,
    question,
    send: (command) => run(command, []),
    sayYes: () => {
      if (asked && question) void run(asked.command, [...asked.confirm, question.code]);
    },
    say: setProblem,
  };
}

/**
 * What the button says that makes the next version: "Check in as 4.3, a draft", "Submit 4.3, to become 5.0".
 */
export function outcomeWords(
  level: Level,
  label: string,
  submittedAs: string | null,
  doing = 'Check in',
): string {
  if (level === 'minor') return `${doing} as ${numberWords(label)}, a draft`;
  if (submittedAs === null) return `${doing} as ${numberWords(label)}, in force`;
  return submittedAs === label ? `Submit ${numberWords(label)}` : `Submit ${submittedAs}, to become ${label}`;
}

/** What a version that was just made is, to go after its number. */
export function madeWords({ standing, state }: Pick<Version, 'standing' | 'state'>): string {
  if (standing === 'inForce') return ' and in force';
  return state === 'inApproval' ? ' and waits for its approvers' : '';
}

/**
 * Says what was made of a file, and that it is not read in the page where it is not: there stands why, in
 * more words than there is room for here. It stays until it can have been read.
 */
export function sayMade(message: MessageInstance, sentence: string, notRead: string | null): void {
  if (notRead === null) void message.success(sentence);
  else void message.warning(`${sentence} It is not read in the page, which says why.`, 15);
}

/** The levels a document offers, with their numbers and the words of their buttons. */
export function waysOf(
  toCome: NonNullable<Document['toCome']>,
  doing?: string,
): { level: Level; words: string }[] {
  const major = {
    level: 'major' as const,
    words: outcomeWords('major', toCome.major, toCome.submittedAs, doing),
  };
  if (!toCome.minor) return [major];
  return [{ level: 'minor', words: outcomeWords('minor', toCome.minor, null, doing) }, major];
}
