import { withoutMark } from './mark.ts';

/**
 * Which of some versions an office file reads most like: asked where its mark alone does not tell, since all
 * of them carry the same one. What counts is how many pairs of neighbouring words differ; formatting and
 * properties do not. Of several as near it is the first.
 * @param given,versions whole files; one that is no package counts as empty
 * @param clearly whether it is the first unless another is nearer by far
 * @returns its place in `versions`
 */
export function nearestTo(given: Uint8Array, versions: readonly Uint8Array[], clearly = false): number {
  const mine = pairsOf(given);
  const distances = versions.map((version) => distance(mine, pairsOf(version)));
  const least = Math.min(...distances);
  return clearly && least * byFar > (distances[0] ?? 0) ? 0 : distances.indexOf(least);
}
/** So many times nearer a small edit is to what it was made from than to what came after. */
const byFar = 3;

/** Ends of paragraphs, headings and cells: words on both sides of one are two. */
const blockEnd = /<\/(?:[\w-]+:)?(?:p|h|tc|c|si|table-cell)>/g;

function pairsOf(bytes: Uint8Array): Map<string, number> {
  const pairs = new Map<string, number>();
  for (const [name, part] of withoutMark(bytes) ?? []) {
    if (!name.endsWith('.xml') || name === 'meta.xml' || name.startsWith('docProps/')) continue;
    const text = new TextDecoder()
      .decode(part)
      .replace(blockEnd, ' ')
      .replace(/<[^>]*>/g, '');
    let before = '';
    for (const word of text.match(/[\p{L}\p{M}\p{N}]+/gu) ?? []) {
      const pair = `${before} ${word}`;
      pairs.set(pair, (pairs.get(pair) ?? 0) + 1);
      before = word;
    }
  }
  return pairs;
}

function distance(a: ReadonlyMap<string, number>, b: ReadonlyMap<string, number>): number {
  let sum = 0;
  for (const pair of new Set([...a.keys(), ...b.keys()]))
    sum += Math.abs((a.get(pair) ?? 0) - (b.get(pair) ?? 0));
  return sum;
}
