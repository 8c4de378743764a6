import fc from 'fast-check';
import {
  allColumns,
  type Column,
  laidOut,
  type Layout,
  moved,
  ofLibrary,
  resized,
  templateOf,
  toggled,
  usualLayout,
  widthOf,
} from './columns.ts';

test('columns are put in and taken out, moved and sized; the title stays', () => {
  const withOwner = toggled(usualLayout, 'owner');
  expect(withOwner.shown.at(-1)).toBe('owner');
  expect(toggled(withOwner, 'owner')).toEqual(usualLayout);
  expect(toggled(usualLayout, 'title')).toEqual(usualLayout);
  expect(moved(withOwner, 'owner', -1).shown.slice(-2)).toEqual(['owner', 'custody']);
  expect(moved(usualLayout, 'number', -1)).toEqual(usualLayout);
  expect(moved(usualLayout, 'owner', 1)).toEqual(usualLayout);
  expect(widthOf('custody', resized(usualLayout, 'custody', 10), 1200)).toBe(40);
  expect(resized(resized(usualLayout, 'custody', 300), 'custody', null)).toEqual(usualLayout);
});

test('the Strand takes what the title leaves of a wide list; a narrow one takes some from it', () => {
  const strand = [2500, 1848, 1500, 1368, 1208, 836, 748].map((room) => widthOf('strand', usualLayout, room));
  expect(strand).toEqual([620, 620, 408, 326, 252, 228, 192]);
  const withOwner = widthOf('strand', toggled(usualLayout, 'owner'), 1500);
  expect(withOwner).toBe(408 - 120 - 10);
  expect(widthOf('strand', resized(usualLayout, 'strand', 300), 1848)).toBe(300);
  // At a window of 820 pixels everything fits beside the spine, with gaps and padding.
  const columns = usualLayout.shown.map((column) => widthOf(column, usualLayout, 748));
  expect(50 + 120 + columns.reduce((sum, width) => sum + width, 0) + 6 * 10 + 20).toBeLessThanOrEqual(748);
  expect(templateOf(usualLayout, 748)).toBe('50px 62px minmax(120px, 1fr) 192px 44px 84px 104px');
});

test('whatever is kept in the browser is a layout again, or becomes one', () => {
  expect(laidOut(null)).toEqual(usualLayout);
  expect(laidOut({ shown: ['owner', 'gone', 'owner'], widths: { gone: 3, owner: 'x', type: 90 } })).toEqual({
    shown: ['title', 'owner'],
    widths: { type: 90 },
  });
  const step = fc.tuple(fc.constantFrom(...allColumns(['Tower'])), fc.constantFrom('toggle', -1, 1, 77.4));
  fc.assert(
    fc.property(fc.array(step), (steps) => {
      const layout = steps.reduce<Layout>((before, [column, how]) => {
        if (how === 'toggle') return toggled(before, column);
        return how === 77.4 ? resized(before, column, how) : moved(before, column, how as -1 | 1);
      }, usualLayout);
      expect(new Set<Column>(layout.shown).size).toBe(layout.shown.length);
      expect(laidOut(JSON.parse(JSON.stringify(layout)))).toEqual(layout);
    }),
  );
});

test('fields of the library’s own are columns where it has them, and are kept for where it has not', () => {
  const layout = toggled(usualLayout, 'own:Tower');
  expect(laidOut(JSON.parse(JSON.stringify(layout)))).toEqual(layout);
  expect(ofLibrary(layout, ['Tower']).shown.at(-1)).toBe('own:Tower');
  expect(ofLibrary(layout, []).shown).toEqual(usualLayout.shown);
  expect(widthOf('own:Tower', layout, 1200)).toBe(120);
});
