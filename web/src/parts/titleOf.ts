/** A title from a file's name: no ending, no number in front, no underscores. */
export function titleOf(fileName: string): string {
  return fileName
    .replace(/\.[^.]+$/, '')
    .replace(/[_]+/g, ' ')
    .replace(/^[A-Z]{1,5}-\d+\s*/, '')
    .trim();
}
