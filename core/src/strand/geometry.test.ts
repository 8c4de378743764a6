import fc from 'fast-check';
import type { OriginKind, Standing, State } from '../document/version.ts';
import { layOutStrand, shareLeft, type StrandDrawing } from './geometry.ts';
import type { StrandInput, StrandVersion } from './input.ts';
import { rulerTicks } from './ruler.ts';

const now = new Date('2026-11-10T12:00:00Z');
let made = 0;
function version(
  label: string,
  daysAgo: number,
  state: State = 'draft',
  standing: Standing | null = null,
  origin: { kind: OriginKind; from: string | null } = { kind: 'checkIn', from: null },
): StrandVersion {
  made += 1;
  return {
    id: `${label}#${made}`,
    label,
    state,
    standing,
    at: new Date(now.getTime() - daysAgo * 86_400_000),
    origin,
  };
}
const draw = (versions: StrandVersion[], more: Partial<StrandInput> = {}): StrandDrawing =>
  layOutStrand({ versions, custody: null, toCome: null, now, width: 900, size: 'large', ...more });
const history = (): StrandVersion[] => {
  const draft = version('0.1', 200);
  const first = version('1.0', 180, 'published', 'superseded', { kind: 'publish', from: draft.id });
  const second = version('1.1', 90);
  const force = version('2.0', 60, 'published', 'inForce', { kind: 'publish', from: second.id });
  return [draft, first, second, force, version('2.1', 5, 'draft', null, { kind: 'restore', from: first.id })];
};

test('published versions lie on the upper line, drafts on the lower, in the order of the history at one pitch', () => {
  const { points, upperY, lowerY } = draw(history());
  expect(
    points.map(({ y }) =>
      new Map([
        [upperY, 'upper'],
        [lowerY, 'lower'],
      ]).get(y),
    ),
  ).toEqual(['lower', 'upper', 'lower', 'upper', 'lower']);
  const steps = points.slice(1).map((point, index) => point.x - (points[index]?.x ?? 0));
  expect(new Set(steps.map((step) => step.toFixed(6))).size).toBe(1);
});

test('the ink bar runs from each publication to the next, and the heavy one to now', () => {
  const { bars, points, nowX } = draw(history());
  expect(bars).toEqual([
    { id: points[1]?.id, governs: false, x1: points[1]?.x, x2: points[3]?.x },
    { id: points[3]?.id, governs: true, x1: points[3]?.x, x2: nowX },
  ]);
});

test('where nothing is in force there is no bar', () => {
  expect(draw([version('0.1', 3), version('0.2', 2)]).bars).toEqual([]);
});

test('a publication rises from the draft it was made of; a restore is an arc under the lower line', () => {
  const versions = history();
  const { rises, arcs, lowerY, ruler } = draw(versions);
  expect(rises.map(({ from, to }) => [from, to])).toEqual([
    [versions[0]?.id, versions[1]?.id],
    [versions[2]?.id, versions[3]?.id],
  ]);
  expect(arcs).toMatchObject([{ from: versions[1]?.id, to: versions[4]?.id, label: '1.0' }]);
  expect(arcs[0]?.labelY).toBeGreaterThan(lowerY);
  expect(arcs[0]?.labelY).toBeLessThan(ruler?.y ?? 0);
});

test('shapes tell states apart', () => {
  const shapes = draw([
    version('0.1', 9, 'rejected'),
    version('0.2', 8, 'approved'),
    version('1.0', 7, 'withdrawn'),
    version('2.0', 6, 'published', 'inForce'),
    version('3.0', 5, 'published', 'scheduled'),
    version('3.1', 4, 'inApproval'),
  ]).points.map(({ shape }) => shape);
  expect(shapes).toEqual(['bentBack', 'resting', 'struck', 'solid', 'open', 'hollowCentred']);
});

test('a copy set aside is a cut thread hanging from its base, which is never folded away', () => {
  const versions = Array.from({ length: 120 }, (_, index) => version(`0.${index + 1}`, 200 - index));
  const base = versions[3]?.id ?? '';
  const drawing = draw([...versions, version('1.0', 1, 'published', 'inForce')], { setAside: [base] });
  const point = drawing.points.find(({ id }) => id === base);
  expect(point).toBeDefined();
  expect(drawing.cut).toHaveLength(1);
  expect(drawing.cut[0]?.end.y).toBeGreaterThan((point?.y ?? 0) + (point?.radius ?? 0));
  expect(draw(versions, { setAside: ['one I do not see'] }).cut).toEqual([]);
});

test('custody is a thread from the base to the ring at now, its saves as beads, the due mark ahead or, overdue, behind', () => {
  const versions = history();
  const base = versions.at(-1)?.id ?? null;
  const custody = (until: string) => ({
    baseId: base,
    since: new Date('2026-11-08T12:00:00Z'),
    until: new Date(until),
    saves: 3,
  });
  const ahead = draw(versions, { custody: custody('2026-11-12T12:00:00Z') });
  expect(ahead.thread?.beads).toHaveLength(3);
  expect(ahead.thread?.ring).toMatchObject({ x: ahead.nowX, left: 0.5 });
  expect(ahead.thread?.due?.x).toBeGreaterThan(ahead.nowX);
  const behind = draw(versions, { custody: custody('2026-11-09T12:00:00Z') });
  expect(behind.thread?.due).toMatchObject({ overdue: true });
  expect(behind.thread?.due?.x).toBeLessThan(behind.nowX);
  expect(draw(versions, { custody: { ...custody('2026-11-12T12:00:00Z'), baseId: null } }).thread).toBeNull();
});

test('the ring empties from one to nothing', () => {
  const since = new Date('2026-11-08T12:00:00Z');
  expect(shareLeft({ since, until: null }, now)).toBe(1);
  expect(shareLeft({ since, until: new Date('2026-11-09T00:00:00Z') }, now)).toBe(0);
});

test('the numbers to come stand right of now, minor below and major above', () => {
  const { ghosts, nowX, upperY, lowerY, width } = draw(history(), { toCome: { minor: '2.2', major: '3.0' } });
  expect(ghosts).toMatchObject([
    { level: 'minor', label: '2.2', y: lowerY },
    { level: 'major', label: '3.0', y: upperY },
  ]);
  for (const ghost of ghosts) {
    expect(ghost.x).toBeGreaterThan(nowX);
    expect(ghost.x).toBeLessThan(width);
  }
  expect(draw(history(), { toCome: { minor: null, major: '3' } }).ghosts).toHaveLength(1);
});

test('the small Strand shows at most six publications, and says how many versions lie before', () => {
  const versions = Array.from({ length: 9 }, (_, index) =>
    version(`${index + 1}.0`, 90 - index * 10, 'published', index === 8 ? 'inForce' : 'superseded'),
  );
  const { points, earlier, width } = draw(versions, { size: 'small', width: 244 });
  expect(points.map(({ label }) => label)).toEqual(['4.0', '5.0', '6.0', '7.0', '8.0', '9.0']);
  expect(earlier).toBe(3);
  expect(width).toBeLessThanOrEqual(244);
});

test('for any history marks go from left to right, none is lost, all of the past stays before now, and every hairline ends on the ruler', () => {
  const one = fc.record({
    state: fc.constantFrom('published' as const, 'draft' as const, 'draft' as const, 'draft' as const),
    thinned: fc.boolean(),
    gone: fc.nat({ max: 3 }),
    hours: fc.integer({ min: 1, max: 5000 }),
  });
  const any = fc.oneof(
    fc.array(one, { minLength: 1, maxLength: 12 }),
    fc.array(one, { minLength: 40, maxLength: 300, size: 'max' }),
  );
  fc.assert(
    fc.property(
      any,
      fc.constantFrom('small' as const, 'large' as const),
      fc.integer({ min: 200, max: 2000 }),
      fc.nat({ max: 2 }),
      (list, size, width, scheduled) => {
        const times = list.map(({ hours }) => hours).sort((a, b) => b - a);
        const versions = list.map(({ state, thinned, gone }, index) => ({
          ...version(
            `${index}`,
            (times[index] ?? 1) / 24,
            state,
            state === 'published' ? 'superseded' : null,
          ),
          thinned:
            index < list.length - 1 && (thinned || gone > 0)
              ? { at: now, until: new Date(now.getTime() + gone * 86_400_000) }
              : null,
        }));
        for (let index = 0; index < scheduled; index += 1)
          versions.push({ ...version(`s${index}`, 0, 'published', 'scheduled'), thinned: null });
        const held = { baseId: versions.at(-1 - scheduled)?.id ?? null, since: now, until: null, saves: 2 };
        const approval = {
          versionId: versions.at(-1 - scheduled)?.id ?? '',
          mode: 'serial' as const,
          submittedAt: now,
          decided: [true, false],
        };
        const drawing = draw(versions, {
          size,
          width,
          ...(width % 2 ? { custody: held, toCome: { minor: '9.1', major: '10.0' } } : { approval }),
        });
        const past = drawing.points.slice(0, drawing.points.length - scheduled);
        const marks = [...past.map(({ x }) => ({ x, width: 0 })), ...drawing.folds].sort((a, b) => a.x - b.x);
        for (const [index, mark] of marks.entries())
          expect(mark.x).toBeGreaterThanOrEqual(
            index === 0 ? 0 : (marks[index - 1]?.x ?? 0) + (marks[index - 1]?.width ?? 0) + 8,
          );
        expect(past.map(({ x }) => x)).toEqual(past.map(({ x }) => x).sort((a, b) => a - b));
        expect(Math.max(0, ...marks.map((mark) => mark.x + mark.width))).toBeLessThan(drawing.nowX);
        for (const point of drawing.points.slice(past.length)) expect(point.x).toBeGreaterThan(drawing.nowX);
        expect(
          drawing.points.length + drawing.folds.reduce((sum, { count }) => sum + count, 0) + drawing.earlier,
        ).toBe(versions.length);
        if (size === 'small') expect(drawing.width).toBeLessThan(width + 0.001);
        for (const hair of drawing.ruler?.hairlines ?? []) {
          expect(hair.y2).toBe(drawing.ruler?.y);
          expect(hair.x2).toBeGreaterThanOrEqual(marks[0]?.x ?? 0);
          expect(hair.x2).toBeLessThanOrEqual(drawing.nowX + 0.1);
        }
      },
    ),
    { numRuns: 300 },
  );
});

describe('dense histories', () => {
  const dense = (): StrandVersion[] =>
    Array.from({ length: 500 }, (_, index) => {
      const published = index % 10 === 9;
      const major = Math.floor(index / 10);
      const standing = index === 499 ? 'inForce' : 'superseded';
      return {
        ...version(
          published ? `${major + 1}.0` : `${major}.${(index % 10) + 1}`,
          500 - index,
          published ? 'published' : 'draft',
          published ? standing : null,
        ),
        words: 1000 + (index % 10) * (major === 3 ? 90 : 10),
        size: 5000,
      };
    });
  test('older drafts between two publications fold into a lens with their count; the last dozen stay, and no step is under 8 px', () => {
    const drawing = draw(dense(), { width: 1100 });
    expect(drawing.points.slice(-12).map(({ label }) => label)).toEqual([
      '48.9',
      '49.0',
      '49.1',
      '49.2',
      '49.3',
      '49.4',
      '49.5',
      '49.6',
      '49.7',
      '49.8',
      '49.9',
      '50.0',
    ]);
    expect(drawing.folds[0]).toMatchObject({
      kind: 'lens',
      count: 9,
      first: '0.1',
      last: '0.9',
      y: drawing.lowerY,
    });
    expect(drawing.folds).toHaveLength(49);
    const xs = drawing.points.map(({ x }) => x);
    for (const [index, x] of xs.entries())
      if (index > 0) expect(x - (xs[index - 1] ?? 0)).toBeGreaterThanOrEqual(8);
  });
  test('a lens is the darker the more words changed in it', () => {
    const { folds } = draw(dense(), { width: 1100 });
    expect(folds[3]?.darkness).toBe(1);
    expect(folds[4]?.darkness).toBeCloseTo(1 / 9);
  });
  test('an opened lens shows its drafts', () => {
    const versions = dense();
    const closed = draw(versions, { width: 1100 });
    const drawing = draw(versions, { width: 1100, opened: new Set([closed.folds[2]?.id ?? '']) });
    expect(drawing.folds).toHaveLength(48);
    expect(drawing.points.map(({ label }) => label)).toEqual(expect.arrayContaining(['2.1', '2.9']));
  });
  test('where there is room nothing folds', () =>
    expect(draw(dense().slice(0, 20), { width: 1400 }).folds).toEqual([]));
});

test('a long stretch of thinned versions is one run with count and bytes; a few are notches with the days left on the shelf', () => {
  const thin = (one: StrandVersion, days: number): StrandVersion => ({
    ...one,
    size: 1000,
    thinned: {
      at: new Date(now.getTime() - 10 * 86_400_000),
      until: new Date(now.getTime() + days * 86_400_000),
    },
  });
  const versions = [
    ...Array.from({ length: 6 }, (_, index) =>
      thin(version(`${index + 1}.0`, 90 - index, 'published', 'superseded'), 20),
    ),
    version('7.0', 70, 'published', 'superseded'),
    thin(version('7.1', 60), 10),
    thin(version('7.2', 59), -1),
    ...Array.from({ length: 12 }, (_, index) =>
      version(`${index + 8}.0`, 50 - index, 'published', index === 11 ? 'inForce' : 'superseded'),
    ),
  ];
  const drawing = draw(versions, { width: 1400 });
  expect(drawing.folds).toMatchObject([
    { kind: 'run', count: 6, bytes: 6000, first: '1.0', last: '6.0', y: drawing.upperY },
  ]);
  expect(
    drawing.points.filter(({ shape }) => shape === 'notch').map(({ label, shelf }) => [label, shelf]),
  ).toEqual([
    ['7.1', 0.5],
    ['7.2', null],
  ]);
});

test('a version in approval rises past one post an approver, filled once decided: in line in turn, abreast together', () => {
  const versions = history().map((one, index, all) =>
    index === all.length - 1 ? { ...one, state: 'inApproval' as const } : one,
  );
  const run = (mode: 'serial' | 'together') =>
    draw(versions, {
      approval: {
        versionId: versions.at(-1)?.id ?? '',
        mode,
        submittedAt: new Date('2026-11-06T08:00:00Z'),
        decided: [true, false, false],
      },
    }).approval;
  expect(run('serial')?.posts.map(({ decided }) => decided)).toEqual([true, false, false]);
  expect(run('serial')?.days).toBe(4);
  const heights = (mode: 'serial' | 'together'): number => new Set(run(mode)?.posts.map(({ y1 }) => y1)).size;
  expect([heights('serial'), heights('together')]).toEqual([3, 1]);
});

test('what is scheduled stands right of now with its moment, the bar dashed up to it; approved rests under the upper line', () => {
  const monday = new Date('2026-11-16T06:00:00Z');
  const drawing = draw([
    version('1.0', 9, 'published', 'inForce'),
    { ...version('2.0', 1, 'published', 'scheduled'), inForceFrom: monday },
    version('2.1', 1, 'approved'),
  ]);
  expect(drawing.points.at(-1)).toMatchObject({ label: '2.0', due: monday, shape: 'hollowCentred' });
  expect(drawing.bars).toMatchObject([
    { governs: true, x2: drawing.nowX },
    { ahead: true, x1: drawing.nowX, x2: drawing.points.at(-1)?.x },
  ]);
  const resting = drawing.points.find(({ shape }) => shape === 'resting');
  expect(resting?.y).toBeGreaterThan(drawing.upperY);
  expect(resting?.y).toBeLessThan(drawing.lowerY);
});

test('labels never overlap on a line, and the newest keep theirs', () => {
  const { points } = draw(
    Array.from({ length: 60 }, (_, index) => version(`0.${index + 1}`, 60 - index)),
    { width: 600 },
  );
  const shown = points.filter(({ labelShown }) => labelShown).map(({ x }) => x);
  expect(points.at(-1)?.labelShown).toBe(true);
  for (const [index, x] of shown.entries())
    if (index > 0) expect(x - (shown[index - 1] ?? 0)).toBeGreaterThanOrEqual(34);
});

test('the ruler chooses hours, days, months or years by the room there is', () => {
  const labels = (from: string, width = 700): string[] =>
    rulerTicks(new Date(from), now, width).map(({ label }) => label);
  expect(labels('2026-11-10T08:00:00Z')).toEqual(['08:00', '09:00', '10:00', '11:00', '12:00']);
  expect(labels('2026-11-06T08:00:00Z')).toEqual(['7 Nov', '8 Nov', '9 Nov', '10 Nov']);
  expect(labels('2026-07-15T00:00:00Z')).toEqual(['Aug 2026', 'Sep', 'Oct', 'Nov']);
  expect(labels('2025-05-20T00:00:00Z')).toEqual(['Jul 2025', 'Oct', 'Jan 2026', 'Apr', 'Jul', 'Oct']);
  expect(labels('2016-05-20T00:00:00Z', 500)).toEqual(['2018', '2020', '2022', '2024', '2026']);
});

test('slim: one line for whoever sees one version, with its bar to now and all that is drawn inside its height', () => {
  const inForce = version('1.0', 30, 'published', 'inForce');
  const custody = { baseId: inForce.id, since: now, until: null, saves: 0 };
  for (const more of [{}, { custody }]) {
    const { points, bars, upperY, lowerY, height, ruler, thread, nowX } = draw([inForce], {
      size: 'slim',
      ...more,
    });
    expect(lowerY).toBe(upperY);
    expect(points.map(({ y }) => y)).toEqual([upperY]);
    expect(bars).toEqual([{ id: inForce.id, governs: true, x1: points[0]?.x, x2: nowX }]);
    expect(ruler).toBeNull();
    expect(height).toBeLessThan(draw([inForce]).height / 3);
    if (thread) expect(thread.ring.y + thread.ring.radius).toBeLessThanOrEqual(height);
  }
});
