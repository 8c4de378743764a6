import { controlFields, usualControlNames } from '@polychron/core';
import { useEffect, useRef } from 'react';
import { useLocation } from 'react-router-dom';
import { StrandLegend } from '../parts/strand/StrandLegend.tsx';
import { glossary } from '../ui/glossary.ts';
import { useHelp } from '../ui/help.ts';
import '../ui/Word.css';

const everywhere: [string, string][] = [
  ['/', 'find a document'],
  ['?', 'open and close this help'],
];
const screens: { test: RegExp; title: string; text: string; keys: [string, string][] }[] = [
  {
    test: /^\/desk$/,
    title: 'Desk',
    text: 'What you hold runs as a thread to its due mark; a post is a decision that waits, a loose end is a copy that was set aside. Drop files anywhere here to keep them: they are yours alone until you bring them in.',
    keys: [],
  },
  {
    test: /^\/approvals$/,
    title: 'Approvals',
    text: 'Over all libraries: what waits for your decision, the longest first, what waits for others’, and what came back to you decided. Beside the list stands what the version changes against what is in force; tick several to approve them together.',
    keys: [
      ['↓ ↑', 'next and previous document'],
      ['Space', 'tick it'],
      ['a', 'to “Approve”'],
      ['r', 'to “Reject”'],
      ['l', 'to “Postpone”'],
      ['c', 'write a comment'],
      ['Alt ↓', 'next change'],
      ['Alt ↑', 'previous change'],
    ],
  },
  {
    test: /^\/outbox$/,
    title: 'Messages',
    text: 'Every message the system made for you, as it was made. One that asks for your decision can be answered here or from your mail program: begin with approve, reject or later, and a colon or a new line behind the word; the rest is your comment.',
    keys: [],
  },
  {
    test: /\/as-of$/,
    title: 'As of',
    text: 'Each bar is a time over which a version was in force. Drag the line to a moment: what held then stands at the right. Choose a second day, and what happened between the two is listed.',
    keys: [
      ['← →', 'a day earlier or later, with a line chosen'],
      ['Page Down, Page Up', 'a month earlier or later'],
    ],
  },
  {
    test: /^\/find$/,
    title: 'Find',
    text: 'Documents of all your libraries whose number, title, fields, comments or text hold what you type; only versions you may see are searched.',
    keys: [],
  },
  {
    test: /^\/account$/,
    title: 'My account',
    text: 'Your password, how notices come to you by mail, where you are signed in, and tokens with which scripts sign in in your name.',
    keys: [],
  },
  {
    test: /^\/account\/drive$/,
    title: 'What a desktop program needs',
    text: 'Programs open, lock and save documents over the drive. Each thing they need is tried from this browser, with a token that goes with the test; nothing is left behind.',
    keys: [],
  },
  {
    test: /\/bring-in$/,
    title: 'Bring in',
    text: 'The text as you took it, as it is now, and your copy, side by side. What only one side changed is taken; where both changed the same place, choose.',
    keys: [],
  },
  {
    test: /\/edit$/,
    title: 'Edit',
    text: 'What you type is saved by itself after a pause, and kept in this browser before that. A step is kept for itself and can be gone back to.',
    keys: [['Ctrl S', 'keep a step']],
  },
  {
    test: /\/compare\/|\/so-far$/,
    title: 'Compare',
    text: 'What is gone is struck through, what is new is underlined. Fields, headers and footers come first.',
    keys: [
      ['Alt ↓', 'next change (or n)'],
      ['Alt ↑', 'previous change (or p)'],
      ['m', 'merged or side by side'],
    ],
  },
  {
    test: /\/sight$/,
    title: 'Who sees what',
    text: 'Who sees what, member by member: a filled mark sees it, an open one does not. Point at a mark for the reason. “Seen as” above shows the whole library so.',
    keys: [],
  },
  {
    test: /\/rulebook$/,
    title: 'Rulebook',
    text: 'Underlined words are choices; a number can be typed or dragged. What a choice would do to this library is computed on the right before anything is applied. The sample above is stepped through under the same rules.',
    keys: [['Esc', 'back to the Register']],
  },
  {
    test: /\/shelf$/,
    title: 'Recovery shelf',
    text: 'Content that was thinned, with the days it can still be recovered. The row of a version stays in any case.',
    keys: [],
  },
  {
    test: /^\/people$/,
    title: 'People and libraries',
    text: 'Who is a member of which library, by themselves or through a group. Rights are the union of all roles.',
    keys: [],
  },
  {
    test: /\/documents\//,
    title: 'Document',
    text: `The upper line holds published versions, the lower one drafts; the heavy bar runs while a version is in force. While you hold the document, drop the edited file on a number to come, or anywhere. An issued copy has written in what the file asks for, by a content control, DOCPROPERTY field or bookmark (.docx), a user-defined field (.odt), or in braces in a header or footer (.xlsx), called ${controlFields.map((field) => usualControlNames[field]).join(', ')}, unless the Rulebook has other names, or like a field of the library; in a PDF it stands in the margin.`,
    keys: [
      ['o', 'to “Check out”'],
      ['i', 'check in'],
      ['f', 'change title, fields and people'],
      ['v', 'compare with what is in force'],
      ['← →', 'move along the Strand'],
      ['3.14', 'jump to that version'],
      ['3.14 5.0', 'compare the two'],
    ],
  },
  {
    test: /\/in-force$/,
    title: 'In force',
    text: 'What holds now over all your libraries, by library and subject. Type to narrow it; what came into force since you last looked is marked. A title opens the text alone, to be read and printed.',
    keys: [],
  },
  {
    test: /.*/,
    title: 'Register',
    text: 'The sentence on top is the filter: press its underlined words. A row unrolls to all its versions. Drop files anywhere: their mark or name says which document they are meant for; others become new ones.',
    keys: [
      ['↓ ↑', 'next and previous row'],
      ['Enter', 'open the document'],
      ['Space', 'unroll its versions'],
      ['o', 'to “Check out”'],
      ['f', 'change title, fields and people'],
      ['v', 'compare with what is in force'],
    ],
  },
];

/** Help for the screen one is on, with its keys. */
export function Help() {
  const { pathname } = useLocation();
  const screen = screens.find(({ test }) => test.test(pathname));
  if (!screen) return null;
  return (
    <div className="help">
      <h2>{screen.title}</h2>
      <p>{screen.text}</p>
      <dl>
        {[...screen.keys, ...everywhere].map(([key, what]) => (
          <div key={key}>
            <dt>
              <kbd>{key}</kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
      <Glossary />
      <p>
        <a href="/api/docs" target="_blank" rel="noreferrer">
          The HTTP interface
        </a>
      </p>
    </div>
  );
}

/** The house's own words, at the one that was asked about. */
function Glossary() {
  const word = useHelp((state) => state.word);
  const asked = useRef<HTMLDivElement>(null);
  useEffect(() => {
    void asked.current?.scrollIntoView({ block: 'nearest' });
  }, [word]);
  return (
    <details key={word} open>
      <summary>Words used here</summary>
      <div className="glossary" tabIndex={0} role="region" aria-label="Words used here">
        <dl>
          {Object.entries(glossary).map(([name, meaning]) => (
            <div
              key={name}
              ref={name === word ? asked : null}
              className={name === word ? 'glossary-asked' : undefined}
            >
              <dt>{name}</dt>
              <dd>
                {meaning}
                {name === 'Strand' && <StrandLegend />}
              </dd>
            </div>
          ))}
        </dl>
      </div>
    </details>
  );
}
