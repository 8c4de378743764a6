/** A place in a text. */
interface Place {
  text: string;
  at: number;
}

/** Signs that two texts have in common from a place of each onwards, of so many at most. */
export function commonFront(a: Place, b: Place, most: number): number {
  let length = 0;
  while (length < most && a.text.charCodeAt(a.at + length) === b.text.charCodeAt(b.at + length)) length += 1;
  return length;
}

/** Signs that two texts have in common up to a place of each, of so many at most. */
export function commonBack(a: Place, b: Place, most: number): number {
  let length = 0;
  while (length < most && a.text.charCodeAt(a.at - 1 - length) === b.text.charCodeAt(b.at - 1 - length))
    length += 1;
  return length;
}
