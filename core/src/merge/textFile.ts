import { isRefusal, type Refusal } from '../document/refusal.ts';
import { decodeText, encodeText, type TextForm, withEnding } from '../files/text/encoding.ts';
import { linesOf, type MergeChoices, type MergeRegion, mergeText, resolve } from './text.ts';

/** The merge of three text files; it is written as the present one is. */
export interface TextPlan {
  regions: MergeRegion[];
  form: TextForm;
}

/**
 * Lays two changed text files over the one they come from, each read in its own encoding and with its own
 * line ends, which alone make no difference.
 */
export function planText(base: Uint8Array, present: Uint8Array, mine: Uint8Array): TextPlan {
  const { text, form } = decodeText(present);
  const [was, own] = [base, mine].map((bytes) => withEnding(decodeText(bytes).text, form.ending)) as [
    string,
    string,
  ];
  return { regions: mergeText(was, text, own), form };
}

/** Lines of the longest of three text files. */
export const mostLines = (files: readonly Uint8Array[]): number =>
  Math.max(...files.map((bytes) => linesOf(decodeText(bytes).text).length));

/**
 * The text file as it was chosen, in encoding and line ends of the present one.
 * @returns null where a conflict has no choice, a refusal `not-in-encoding` where it cannot be written so
 */
export function buildText({ regions, form }: TextPlan, choices: MergeChoices): Uint8Array | Refusal | null {
  const ended = (lines: readonly string[]): string[] =>
    lines.map((line, index) =>
      index < lines.length - 1 || /[\r\n]$/.test(line) ? line : line + form.ending,
    );
  const pieces = resolve(regions, choices, ended);
  if (!pieces) return null;
  const bytes = encodeText(pieces.join(''), form);
  if (!isRefusal(bytes)) return bytes;
  const reason = `${bytes.reason} The merged file would be written as the latest version is.`;
  return { ...bytes, reason };
}
