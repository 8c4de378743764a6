/**
 * The element at an index that is known to be within a list: what an index type cannot say, checked once
 * here.
 * @throws RangeError where there is none
 */
export function elementAt<T>(list: ArrayLike<T>, index: number): T {
  const element = list[index];
  if (element === undefined) throw new RangeError(`no element at ${index} of ${list.length}`);
  return element;
}
