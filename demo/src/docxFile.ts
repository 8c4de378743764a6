import { usualControlNames } from '@polychron/core';
import {
  AlignmentType,
  Document,
  Footer,
  Header,
  HeadingLevel,
  LevelFormat,
  Packer,
  PageNumber,
  Paragraph,
  SimpleField,
  Tab,
  TabStopPosition,
  TabStopType,
  Table,
  TableCell,
  TableRow,
  TextRun,
  WidthType,
} from 'docx';

/** What the headers and footers of a controlled document say. */
export interface Imprint {
  number: string;
  kind: string;
  title: string;
}

/**
 * Makes a .docx of a text in a plain notation, a block a line: `# ` and `## ` headings, `- ` and `1. ` list
 * items, `| a | b |` table rows (the first of a table is its head), `===` a new page, anything else a
 * paragraph; `**bold**` and `_slanted_` inside.
 */
export async function makeDocx(text: string, imprint: Imprint): Promise<Buffer> {
  const lines = text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean);
  const document = new Document({
    title: imprint.title,
    creator: 'Orrin Vale Ropeway',
    description: imprint.number,
    customProperties: issuedNames.map(([, name, value]) => ({ name, value })),
    styles: {
      default: {
        document: {
          run: { font: 'Liberation Serif', size: 22 },
          paragraph: { spacing: { after: 140, line: 288 } },
        },
      },
    },
    numbering: {
      config: [
        {
          reference: 'steps',
          levels: [
            {
              level: 0,
              format: LevelFormat.DECIMAL,
              text: '%1.',
              alignment: AlignmentType.START,
              style: { paragraph: { indent: { left: 560, hanging: 360 } } },
            },
          ],
        },
      ],
    },
    sections: [
      {
        headers: {
          default: new Header({
            children: [edge(`Orrin Vale Ropeway · ${imprint.number}`, [new TextRun(imprint.kind)])],
          }),
        },
        footers: {
          default: new Footer({
            children: [
              edge('Printed copies are not controlled.', [
                new TextRun({ children: ['Page ', PageNumber.CURRENT, ' of ', PageNumber.TOTAL_PAGES] }),
              ]),
              new Paragraph({
                children: issuedNames.flatMap(([before, name, unissued]) => [
                  new TextRun(before),
                  new SimpleField(`DOCPROPERTY "${name}"`, unissued),
                ]),
              }),
            ],
          }),
        },
        children: [
          new Paragraph({ heading: HeadingLevel.TITLE, children: [new TextRun(imprint.title)] }),
          ...blocks(lines),
        ],
      },
    ],
  });
  return Packer.toBuffer(document);
}

/** What issued copies say in their footers: what stands before it, its name, what the file itself says. */
const issuedNames = [
  ['', usualControlNames.status, 'Not an issued copy'],
  [' · version ', usualControlNames.version, '–'],
  [' · issued ', usualControlNames.issueDate, '–'],
] as const;

function edge(left: string, right: TextRun[]): Paragraph {
  return new Paragraph({
    tabStops: [{ type: TabStopType.RIGHT, position: TabStopPosition.MAX }],
    children: [new TextRun(left), new TextRun({ children: [new Tab()] }), ...right],
  });
}

function blocks(lines: readonly string[]): (Paragraph | Table)[] {
  const made: (Paragraph | Table)[] = [];
  let rows: string[][] = [];
  let list = 0;
  let inSteps = false;
  let newPage = false;
  const closeTable = (): void => {
    if (rows.length > 0) made.push(table(rows));
    rows = [];
  };
  for (const line of lines) {
    if (line.startsWith('|')) {
      rows.push(
        line
          .slice(1, -1)
          .split('|')
          .map((cell) => cell.trim()),
      );
      continue;
    }
    closeTable();
    if (line === '===') {
      newPage = true;
      continue;
    }
    const step = /^1\. (.*)/.exec(line);
    if (step && !inSteps) list += 1;
    inSteps = step !== null;
    const heading = /^(#{1,2}) (.*)/.exec(line);
    const bullet = /^- (.*)/.exec(line);
    const common = { pageBreakBefore: newPage };
    newPage = false;
    if (heading)
      made.push(
        new Paragraph({
          ...common,
          heading: heading[1] === '#' ? HeadingLevel.HEADING_1 : HeadingLevel.HEADING_2,
          children: runs(heading[2] ?? ''),
        }),
      );
    else if (bullet)
      made.push(new Paragraph({ ...common, bullet: { level: 0 }, children: runs(bullet[1] ?? '') }));
    else if (step)
      made.push(
        new Paragraph({
          ...common,
          numbering: { reference: 'steps', level: 0, instance: list },
          children: runs(step[1] ?? ''),
        }),
      );
    else made.push(new Paragraph({ ...common, children: runs(line) }));
  }
  closeTable();
  return made;
}

function table(rows: string[][]): Table {
  return new Table({
    width: { size: 100, type: WidthType.PERCENTAGE },
    rows: rows.map(
      (row, index) =>
        new TableRow({
          tableHeader: index === 0,
          children: row.map(
            (cell) =>
              new TableCell({
                margins: { top: 60, bottom: 60, left: 120, right: 120 },
                children: [new Paragraph({ children: runs(index === 0 ? `**${cell}**` : cell) })],
              }),
          ),
        }),
    ),
  });
}

function runs(text: string): TextRun[] {
  return text
    .split(/(\*\*[^*]+\*\*|_[^_]+_)/)
    .filter(Boolean)
    .map((part) => {
      if (part.startsWith('**')) return new TextRun({ text: part.slice(2, -2), bold: true });
      return part.startsWith('_')
        ? new TextRun({ text: part.slice(1, -1), italics: true })
        : new TextRun(part);
    });
}
