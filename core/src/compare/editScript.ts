/** A stretch of an edit script: `a` is the older sequence, `b` the newer; ends are exclusive. */
export interface Span {
  kind: 'equal' | 'deleted' | 'inserted';
  aStart: number;
  aEnd: number;
  bStart: number;
  bEnd: number;
}

/**
 * Edits after which the search stops looking for the shortest script and splits where it has come furthest.
 * Keeps two wholly different texts of 100,000 words within seconds; nobody reads such a comparison word by
 * word.
 */
const tooManyEdits = 3000;

/**
 * The shortest edit script from `a` to `b`: fewest deletions and insertions, in O((N+M)D) time and linear
 * space. Source: E. W. Myers, "An O(ND) Difference Algorithm and Its Variations", Algorithmica 1 (1986),
 * section 4b. Elements are compared with `===`.
 */
export function editScript<T>(a: readonly T[], b: readonly T[]): Span[] {
  const spans: Span[] = [];
  compareBox(intern(a, b), { aStart: 0, aEnd: a.length, bStart: 0, bEnd: b.length }, spans);
  return spans;
}

/** Number of elements deleted and inserted by a script. */
export function editCount(spans: readonly Span[]): number {
  return spans.reduce(
    (sum, span) => sum + (span.kind === 'equal' ? 0 : span.aEnd - span.aStart + span.bEnd - span.bStart),
    0,
  );
}

type Box = Omit<Span, 'kind'>;
interface Pair {
  a: Int32Array;
  b: Int32Array;
}

/** Numbers stand for the elements, so that comparing is comparing integers. */
function intern<T>(a: readonly T[], b: readonly T[]): Pair {
  const numbers = new Map<T, number>();
  const number = (value: T): number => {
    const known = numbers.get(value);
    if (known !== undefined) return known;
    numbers.set(value, numbers.size);
    return numbers.size - 1;
  };
  return { a: Int32Array.from(a, number), b: Int32Array.from(b, number) };
}

function add(spans: Span[], kind: Span['kind'], box: Box): void {
  if (box.aStart === box.aEnd && box.bStart === box.bEnd) return;
  const last = spans.at(-1);
  if (last?.kind === kind) {
    last.aEnd = box.aEnd;
    last.bEnd = box.bEnd;
  } else spans.push({ kind, ...box });
}

function compareBox(pair: Pair, box: Box, spans: Span[]): void {
  const { a, b } = pair;
  let { aStart, aEnd, bStart, bEnd } = box;
  while (aStart < aEnd && bStart < bEnd && a[aStart] === b[bStart]) {
    aStart += 1;
    bStart += 1;
  }
  add(spans, 'equal', { aStart: box.aStart, aEnd: aStart, bStart: box.bStart, bEnd: bStart });
  while (aStart < aEnd && bStart < bEnd && a[aEnd - 1] === b[bEnd - 1]) {
    aEnd -= 1;
    bEnd -= 1;
  }

  if (aStart === aEnd) add(spans, 'inserted', { aStart, aEnd, bStart, bEnd });
  else if (bStart === bEnd) add(spans, 'deleted', { aStart, aEnd, bStart, bEnd });
  else {
    const [aMiddle, bMiddle] = split(pair, { aStart, aEnd, bStart, bEnd });
    compareBox(pair, { aStart, aEnd: aMiddle, bStart, bEnd: bMiddle }, spans);
    compareBox(pair, { aStart: aMiddle, aEnd, bStart: bMiddle, bEnd }, spans);
  }
  add(spans, 'equal', { aStart: aEnd, aEnd: box.aEnd, bStart: bEnd, bEnd: box.bEnd });
}

/**
 * A point that a shortest path through the box goes through: the end of the middle snake, found by searching
 * from both corners at once. The box has neither a common start nor a common end, so both halves are smaller
 * than it. Its arrays are read unchecked: `at` keeps within them, and this loop is what a compare costs.
 */
function split({ a, b }: Pair, { aStart, aEnd, bStart, bEnd }: Box): [number, number] {
  const n = aEnd - aStart;
  const m = bEnd - bStart;
  const delta = n - m;
  const odd = (delta & 1) !== 0;
  const size = 2 * Math.min(n, m) + 2;
  const forward = new Int32Array(size);
  const backward = new Int32Array(size);
  const at = (k: number): number => ((k % size) + size) % size;
  const half = Math.ceil((n + m) / 2);
  for (let d = 0; d <= half; d += 1) {
    const low = -(d - 2 * Math.max(0, d - m));
    const high = d - 2 * Math.max(0, d - n);
    for (let k = low; k <= high; k += 2) {
      const down = k === -d || (k !== d && (forward[at(k - 1)] as number) < (forward[at(k + 1)] as number));
      let x = down ? (forward[at(k + 1)] as number) : (forward[at(k - 1)] as number) + 1;
      let y = x - k;
      while (x < n && y < m && a[aStart + x] === b[bStart + y]) {
        x += 1;
        y += 1;
      }
      forward[at(k)] = x;
      const z = delta - k;
      if (odd && z >= -(d - 1) && z <= d - 1 && x + (backward[at(z)] as number) >= n)
        return [aStart + x, bStart + y];
    }
    for (let k = low; k <= high; k += 2) {
      const down = k === -d || (k !== d && (backward[at(k - 1)] as number) < (backward[at(k + 1)] as number));
      let x = down ? (backward[at(k + 1)] as number) : (backward[at(k - 1)] as number) + 1;
      let y = x - k;
      while (x < n && y < m && a[aEnd - 1 - x] === b[bEnd - 1 - y]) {
        x += 1;
        y += 1;
      }
      backward[at(k)] = x;
      const z = delta - k;
      if (!odd && z >= -d && z <= d && x + (forward[at(z)] as number) >= n) return [aEnd - x, bEnd - y];
    }
    if (d >= tooManyEdits) {
      const [x, y] = furthest(forward, at, { n, m, low, high });
      return [aStart + x, bStart + y];
    }
  }
  throw new Error('unreachable: the two searches always meet');
}

function furthest(
  forward: Int32Array,
  at: (k: number) => number,
  box: { n: number; m: number; low: number; high: number },
): [number, number] {
  let best: [number, number] = [0, 0];
  for (let k = box.low; k <= box.high; k += 2) {
    const x = Math.min(box.n, forward[at(k)] as number);
    const y = Math.min(box.m, x - k);
    if (y >= 0 && x + y > best[0] + best[1]) best = [x, y];
  }
  return best;
}
