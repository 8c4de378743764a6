import { elementReader, type ElementReading } from '../../files/docx/readDocx.ts';
import { type Block, type Run, styleKeys, textOfBlocks } from '../../files/reading.ts';
import { descendants, type Element, elements } from '../../files/xml/xml.ts';
import type { Source } from './source.ts';

/** What a person reads of an element: its words, what they note, who remarked what, its pictures. */
export interface Words {
  text: string;
  /** Names of the parts that hold its pictures. */
  pictures: string[];
}

/** Reads elements of one file, as they are shown and as they are compared across programs. */
export class WordReader {
  private readonly read: (element: Element, part: string) => ElementReading;

  constructor(private readonly source: Source) {
    this.read = elementReader(source.pack);
  }

  /** What is shown of an element. */
  words(element: Element, part: string): Words {
    const { blocks, notes } = this.read(standing(element), part);
    const noted = notes.map(({ kind, id }) => `[${kind}: ${this.textOfAside(kind, id)}]`);
    const remarks = this.commentsIn(element).map((id) => {
      const author = this.source.asideOf('comment', id)?.element.attributes['w:author'] ?? '';
      return `[comment${author === '' ? '' : ` by ${author}`}: ${this.textOfAside('comment', id)}]`;
    });
    const pictures = runsOf(blocks).flatMap(({ image }) => (image ? [image.part] : []));
    const shown =
      pictures.length === 0 ? [] : [pictures.length === 1 ? '[picture]' : `[${pictures.length} pictures]`];
    const lines = [textOfBlocks(blocks).trim(), ...shown, ...noted, ...remarks];
    return { text: lines.filter((line) => line !== '').join(' '), pictures };
  }

  /** Equal for elements that read the same, whichever programs wrote them. */
  key(element: Element, part: string): string {
    const { blocks, notes } = this.read(standing(element), part);
    const values = new Map(notes.map(({ kind, id, number }) => [number, this.textOfAside(kind, id)]));
    const runKey = (run: Run): unknown => {
      if (run.image) return ['picture', this.pictureValue(run.image.part)];
      if (run.note !== undefined) return ['note', values.get(run.note)];
      return [run.field ?? run.text, ...styleKeys.map((key) => run[key] ?? null)];
    };
    const blockKey = (block: Block): unknown => {
      if (block.kind === 'pageBreak') return [];
      if (block.kind === 'table')
        return block.rows.map(({ cells }) =>
          cells.map((cell) => [cell.columns, cell.rows, cell.blocks.map(blockKey)]),
        );
      return [
        block.kind,
        block.level,
        block.runs.filter(({ text, image }) => image || text.trim() !== '').map(runKey),
      ];
    };
    const remarks = this.commentsIn(element).map((id) => this.textOfAside('comment', id));
    return JSON.stringify([element.name, blocks.map(blockKey), remarks]);
  }

  private pictureValue(part: string): string {
    return `${this.source.parts.get(part)?.length ?? 0}`;
  }

  private commentsIn(element: Element): string[] {
    return descendants(element, 'w:commentReference').map(({ attributes }) => attributes['w:id'] ?? '');
  }

  private textOfAside(kind: 'footnote' | 'endnote' | 'comment', id: string): string {
    const found = this.source.asideOf(kind, id);
    if (!found) return '';
    return elements(found.element)
      .map((each) => textOfBlocks(this.read(each, found.part).blocks).trim())
      .join(' ')
      .trim();
  }
}

/**
 * An element that can be read by itself: a row or a cell stands in a table, what is in a line in a
 * paragraph.
 */
function standing(element: Element): Element {
  const around = (name: string, child: Element): Element => ({ name, attributes: {}, children: [child] });
  if (element.name === 'w:tr') return around('w:tbl', element);
  if (element.name === 'w:tc') return around('w:tbl', around('w:tr', element));
  return element;
}

const runsOf = (blocks: readonly Block[]): Run[] =>
  blocks.flatMap((block) => {
    if (block.kind === 'table')
      return block.rows.flatMap(({ cells }) => cells.flatMap((cell) => runsOf(cell.blocks)));
    return block.kind === 'pageBreak' ? [] : block.runs;
  });
