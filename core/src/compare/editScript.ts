/** A stretch of an edit script: `a` is the older sequence, `b` the newer; ends are exclusive. */
export interface Span {
  kind: 'equal' | 'deleted' | 'inserted';
  aStart: number;
  aEnd: number;
  bStart: number;
  bEnd: number;
}

/**
 * Edits after which one search stops looking for the shortest script and splits where it has come
 * furthest.
 */
const tooManyEdits = 3000;
/** However little is left to spend, a search goes this far. */
const fewestEdits = 64;
/**
 * Steps that all searches of one comparison may take before each is kept short. Two texts of 100,000 words
 * are compared within a second or so, whatever they are; nobody reads a comparison of wholly different
 * texts word by word.
 */
const mostSteps = 15_000_000;
/** Of so few elements the script is found sooner than what they have in common. */
const fewElements = 64;

/**
 * The shortest edit script from `a` to `b`: fewest deletions and insertions, in O((N+M)D) time and linear
 * space. Source: E. W. Myers, "An O(ND) Difference Algorithm and Its Variations", Algorithmica 1 (1986),
 * section 4b. Elements are compared with `===`.
 */
export const editScript = <T>(a: readonly T[], b: readonly T[]): Span[] => boundedScript(a, b).spans;

/**
 * An edit script, and whether it is certainly the shortest: where two sequences have too little in common,
 * the search for that is given up.
 */
export function boundedScript<T>(
  a: readonly T[],
  b: readonly T[],
  steps = mostSteps,
): { spans: Span[]; isShortest: boolean } {
  return boundedScriptOfNumbers(intern(a, b), steps);
}

/** Two sequences of numbers that stand for their elements, all below `count`. */
export interface NumberedPair {
  a: Int32Array;
  b: Int32Array;
  count: number;
}

/** An edit script of what numbers stand for already. */
export function boundedScriptOfNumbers(
  pair: NumberedPair,
  steps = mostSteps,
): { spans: Span[]; isShortest: boolean } {
  if (pair.a.length + pair.b.length < fewElements) {
    const search = new Search(pair, steps);
    return { spans: search.run(), isShortest: search.isShortest };
  }
  // What only one of them has can match nothing: the rest decides.
  const common = {
    a: inBoth(pair.a, pair.b, pair.count),
    b: inBoth(pair.b, pair.a, pair.count),
  };
  const search = new Search(
    { a: common.a.map((at) => pair.a[at] as number), b: common.b.map((at) => pair.b[at] as number) },
    steps,
  );
  const spans: Span[] = [];
  const at = { a: 0, b: 0 };
  const between = (aEnd: number, bEnd: number): void => {
    add(spans, 'deleted', { aStart: at.a, aEnd, bStart: at.b, bEnd: at.b });
    add(spans, 'inserted', { aStart: aEnd, aEnd, bStart: at.b, bEnd });
  };
  for (const { kind, ...box } of search.run()) {
    if (kind !== 'equal') continue;
    for (let from = 0; from < box.aEnd - box.aStart;) {
      const aAt = common.a[box.aStart + from] as number;
      const bAt = common.b[box.bStart + from] as number;
      // Neighbours here are neighbours there, as far as nothing was left out between them.
      let length = 1;
      while (
        from + length < box.aEnd - box.aStart &&
        common.a[box.aStart + from + length] === aAt + length &&
        common.b[box.bStart + from + length] === bAt + length
      )
        length += 1;
      between(aAt, bAt);
      add(spans, 'equal', { aStart: aAt, aEnd: aAt + length, bStart: bAt, bEnd: bAt + length });
      at.a = aAt + length;
      at.b = bAt + length;
      from += length;
    }
  }
  between(pair.a.length, pair.b.length);
  return { spans, isShortest: search.isShortest };
}

/** Places of the elements of one sequence that the other has too; elements are numbers below `count`. */
function inBoth(of: Int32Array, other: Int32Array, count: number): Int32Array {
  const known = new Uint8Array(count);
  for (let at = 0; at < other.length; at += 1) known[other[at] as number] = 1;
  const places = new Int32Array(of.length);
  let found = 0;
  for (let at = 0; at < of.length; at += 1) {
    if (known[of[at] as number] === 0) continue;
    places[found] = at;
    found += 1;
  }
  return places.subarray(0, found);
}

/** Number of elements deleted and inserted by a script. */
export function editCount(spans: readonly Span[]): number {
  return spans.reduce(
    (sum, span) => sum + (span.kind === 'equal' ? 0 : span.aEnd - span.aStart + span.bEnd - span.bStart),
    0,
  );
}

type Box = Omit<Span, 'kind'>;
type Pair = Omit<NumberedPair, 'count'>;

/** Numbers stand for the elements, so that comparing is comparing integers; `count` is how many there are. */
function intern<T>(a: readonly T[], b: readonly T[]): NumberedPair {
  const numbers = new Map<T, number>();
  const numbered = (of: readonly T[]): Int32Array => {
    const made = new Int32Array(of.length);
    for (let at = 0; at < of.length; at += 1) {
      const value = of[at] as T;
      let number = numbers.get(value);
      if (number === undefined) {
        number = numbers.size;
        numbers.set(value, number);
      }
      made[at] = number;
    }
    return made;
  };
  return { a: numbered(a), b: numbered(b), count: numbers.size };
}

function add(spans: Span[], kind: Span['kind'], box: Box): void {
  if (box.aStart === box.aEnd && box.bStart === box.bEnd) return;
  const last = spans.at(-1);
  if (last?.kind === kind) {
    last.aEnd = box.aEnd;
    last.bEnd = box.bEnd;
  } else spans.push({ kind, ...box });
}

/** One comparison: what it may still spend, and whether it had to stop short of the shortest script. */
class Search {
  isShortest = true;
  private readonly spans: Span[] = [];

  constructor(
    private readonly pair: Pair,
    private steps: number,
  ) {}

  run(): Span[] {
    const { a, b } = this.pair;
    this.compareBox({ aStart: 0, aEnd: a.length, bStart: 0, bEnd: b.length });
    return this.spans;
  }

  private compareBox(box: Box): void {
    const { a, b } = this.pair;
    const { spans } = this;
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
      const [aMiddle, bMiddle] = this.split({ aStart, aEnd, bStart, bEnd });
      this.compareBox({ aStart, aEnd: aMiddle, bStart, bEnd: bMiddle });
      this.compareBox({ aStart: aMiddle, aEnd, bStart: bMiddle, bEnd });
    }
    add(spans, 'equal', { aStart: aEnd, aEnd: box.aEnd, bStart: bEnd, bEnd: box.bEnd });
  }

  /**
   * A point that a shortest path through the box goes through: the end of the middle snake, found by
   * searching from both corners at once. The box has neither a common start nor a common end, so both
   * halves are smaller than it. Its arrays are read unchecked: `at` keeps within them, and this loop is
   * what a compare costs.
   */
  private split({ aStart, aEnd, bStart, bEnd }: Box): [number, number] {
    const { a, b } = this.pair;
    const n = aEnd - aStart;
    const m = bEnd - bStart;
    const delta = n - m;
    const odd = (delta & 1) !== 0;
    const limit = Math.max(
      fewestEdits,
      Math.min(tooManyEdits, Math.floor(Math.sqrt(Math.max(0, this.steps)))),
    );
    // Diagonals are counted from the middle of arrays that are as wide as the search may get.
    const reach = Math.min(Math.ceil((n + m) / 2), limit) + 1;
    const size = 2 * reach + 1;
    const forward = new Int32Array(size);
    const backward = new Int32Array(size);
    const half = Math.ceil((n + m) / 2);
    for (let d = 0; d <= half; d += 1) {
      const low = -(d - 2 * Math.max(0, d - m));
      const high = d - 2 * Math.max(0, d - n);
      this.steps -= high - low + 2;
      for (let k = low; k <= high; k += 2) {
        const down =
          k === -d || (k !== d && (forward[reach + k - 1] as number) < (forward[reach + k + 1] as number));
        let x = down ? (forward[reach + k + 1] as number) : (forward[reach + k - 1] as number) + 1;
        let y = x - k;
        while (x < n && y < m && a[aStart + x] === b[bStart + y]) {
          x += 1;
          y += 1;
        }
        forward[reach + k] = x;
        const z = delta - k;
        if (odd && z >= -(d - 1) && z <= d - 1 && x + (backward[reach + z] as number) >= n)
          return [aStart + x, bStart + y];
      }
      for (let k = low; k <= high; k += 2) {
        const down =
          k === -d || (k !== d && (backward[reach + k - 1] as number) < (backward[reach + k + 1] as number));
        let x = down ? (backward[reach + k + 1] as number) : (backward[reach + k - 1] as number) + 1;
        let y = x - k;
        while (x < n && y < m && a[aEnd - 1 - x] === b[bEnd - 1 - y]) {
          x += 1;
          y += 1;
        }
        backward[reach + k] = x;
        const z = delta - k;
        if (!odd && z >= -d && z <= d && x + (forward[reach + z] as number) >= n) return [aEnd - x, bEnd - y];
      }
      if (d >= limit) {
        this.isShortest = false;
        const [x, y] = furthest(forward, reach, { n, m, low, high });
        return [aStart + x, bStart + y];
      }
    }
    throw new Error('unreachable: the two searches always meet');
  }
}

function furthest(
  forward: Int32Array,
  reach: number,
  box: { n: number; m: number; low: number; high: number },
): [number, number] {
  let best: [number, number] = [0, 0];
  for (let k = box.low; k <= box.high; k += 2) {
    const x = Math.min(box.n, forward[reach + k] as number);
    const y = Math.min(box.m, x - k);
    if (y >= 0 && x + y > best[0] + best[1]) best = [x, y];
  }
  return best;
}
