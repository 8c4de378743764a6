import { numberBy, type Rulebook, readPattern } from '@polychron/core';
import { XIcon } from '@phosphor-icons/react';
import { WordField } from './WordField.tsx';

interface Props {
  patterns: Rulebook['numberPatterns'];
  /** The library's code, by which documents are numbered that no pattern names. */
  code: string;
  marked: boolean;
  onChange: (patterns: Rulebook['numberPatterns']) => void;
}

/** How documents are numbered, by type, in a sentence: each pattern with the number it makes. */
export function NumberPatterns({ patterns, code, marked, onChange }: Props) {
  const others = patterns.find(({ type }) => type === null)?.pattern ?? '';
  const typed = patterns.filter(({ type }) => type !== null);
  const set = (index: number, changed: Partial<(typeof typed)[number]>): void =>
    onChange([
      ...typed.map((one, at) => (at === index ? { ...one, ...changed } : one)),
      ...patterns.filter(({ type }) => type === null),
    ]);
  const setOthers = (pattern: string): void =>
    onChange([...typed, ...(pattern === '' ? [] : [{ type: null, pattern }])]);
  return (
    <p>
      Numbers have the form{' '}
      <WordField
        name="Pattern of numbers"
        value={others}
        empty={`${code}-###`}
        marked={marked}
        isNumber
        onChange={setOthers}
      />
      {typed.map(({ type, pattern }, index) => (
        <span key={index}>
          , those of the type{' '}
          <WordField
            name={`Type of pattern ${index + 1}`}
            value={type ?? ''}
            empty="type"
            onChange={(value) => set(index, { type: value })}
          />{' '}
          <WordField
            name={`Pattern ${index + 1}`}
            value={pattern}
            empty="XY-###"
            isNumber
            onChange={(value) => set(index, { pattern: value })}
          />
          <button
            type="button"
            className="icon"
            aria-label={`Remove the pattern of ${type || 'a type'}`}
            onClick={() => onChange(patterns.filter((one) => one !== typed[index]))}
          >
            <XIcon size={13} />
          </button>
        </span>
      ))}
      ; the next is one above the highest.{' '}
      <button
        type="button"
        className="quiet"
        onClick={() => onChange([...typed, { type: '', pattern: '' }, ...patterns.filter(isForOthers)])}
      >
        other numbers for a type
      </button>
      <span className="why pattern-example">{example(patterns, code)}</span>
    </p>
  );
}

const isForOthers = ({ type }: Rulebook['numberPatterns'][number]): boolean => type === null;

/** What numbers the patterns make. */
function example(patterns: Rulebook['numberPatterns'], code: string): string {
  const all = patterns.some(isForOthers) ? patterns : [...patterns, { type: null, pattern: `${code}-###` }];
  const made = all.flatMap(({ pattern }) => {
    const parts = readPattern(pattern);
    return parts ? [numberBy(parts, 7)] : [];
  });
  return made.length > 0 ? `The seventh is ${[...new Set(made)].join(' or ')}.` : '';
}
