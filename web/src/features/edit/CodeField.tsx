import { markdown } from '@codemirror/lang-markdown';
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import { EditorState } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { basicSetup } from 'codemirror';
import { useEffect, useRef } from 'react';

interface Props {
  text: string;
  name: string;
  readOnly: boolean;
  /** A text laid in from outside has another of these. */ revision: number;
  onChange: (text: string) => void;
  onSave: () => void;
}

/** Marks recede, what they mark stands out; in the colours of either paper. */
const look = syntaxHighlighting(
  HighlightStyle.define([
    { tag: tags.heading, fontWeight: '700' },
    { tag: tags.strong, fontWeight: '700' },
    { tag: tags.emphasis, fontStyle: 'italic' },
    { tag: tags.strikethrough, textDecoration: 'line-through' },
    { tag: [tags.processingInstruction, tags.meta, tags.contentSeparator, tags.url], color: 'var(--muted)' },
    { tag: tags.link, textDecoration: 'underline' },
  ]),
);

/** A text field with line numbers, search, undo; Markdown is coloured. */
export function CodeField({ text, name, readOnly, revision, onChange, onSave }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const late = useRef({ onChange, onSave });
  useEffect(() => {
    late.current = { onChange, onSave };
  });
  const start = useRef(text);
  useEffect(() => {
    start.current = text;
  });
  useEffect(() => {
    if (!place.current) return undefined;
    const view = new EditorView({
      parent: place.current,
      state: EditorState.create({
        doc: start.current,
        extensions: [
          basicSetup,
          EditorView.lineWrapping,
          EditorState.readOnly.of(readOnly),
          EditorView.editable.of(!readOnly),
          ...(/\.md$/i.test(name) ? [markdown(), look] : []),
          EditorView.contentAttributes.of({ 'aria-label': `Text of ${name}` }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) late.current.onChange(update.state.doc.toString());
          }),
          EditorView.domEventHandlers({
            keydown: (event) => {
              if ((event.ctrlKey || event.metaKey) && event.key === 's') {
                event.preventDefault();
                late.current.onSave();
                return true;
              }
              return false;
            },
          }),
        ],
      }),
    });
    if (!readOnly) view.focus();
    return () => view.destroy();
  }, [name, readOnly, revision]);
  return <div ref={place} className="code-field" />;
}
