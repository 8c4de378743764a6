import MarkdownIt from 'markdown-it';
import Papa from 'papaparse';
import { useDeferredValue, useMemo } from 'react';

// HTML inside a text is shown as text: nobody's file brings code into the page. Pictures would be fetched
// from elsewhere.
const reader = new MarkdownIt({ html: false, linkify: false }).disable('image');
/** Rows of a table shown beside the text. */
const mostRows = 500;

/** A text as it reads: Markdown set, a .csv as a table, others by paragraphs. */
export function Preview({ text, name }: { text: string; name: string }) {
  const shown = useDeferredValue(text);
  if (/\.md$/i.test(name)) return <Markdown text={shown} />;
  if (/\.csv$/i.test(name)) return <Table text={shown} />;
  return (
    <div className="sheet preview">
      {shown.split(/\n{2,}/).map((paragraph, index) => (
        <p key={index}>{paragraph}</p>
      ))}
    </div>
  );
}

function Markdown({ text }: { text: string }) {
  const html = useMemo(() => reader.render(text), [text]);
  return <div className="sheet preview" dangerouslySetInnerHTML={{ __html: html }} />;
}

function Table({ text }: { text: string }) {
  const rows = useMemo(
    () => Papa.parse<string[]>(text, { skipEmptyLines: true, preview: mostRows + 1 }).data,
    [text],
  );
  const [head, ...body] = rows;
  return (
    <div className="sheet preview">
      <table>
        <thead>
          <tr>
            {head?.map((cell, index) => (
              <th key={index}>{cell}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {body.slice(0, mostRows).map((row, index) => (
            <tr key={index}>
              {row.map((cell, column) => (
                <td key={column}>{cell}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length > mostRows && <p className="muted">The first {mostRows} rows.</p>}
    </div>
  );
}
