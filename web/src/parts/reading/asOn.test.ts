import type { ComparedText, TextBlock } from '@polychron/core';
import { asOn } from './asOn.ts';

const paragraph: TextBlock = { kind: 'paragraph', level: 0, runs: [{ text: 'Closed above 19 m/s.' }] };
const compared = (more: Partial<ComparedText>): ComparedText => ({
  ...paragraph,
  runs: [],
  status: 'restyled',
  change: 1,
  ...more,
});

test('the older side stands as it stood: what only the newer is formatted with is gone from it', () => {
  const block = compared({ align: 'right', indent: 36, was: paragraph });
  expect(asOn(block, 'older')).toEqual({ ...paragraph, status: 'restyled', change: 1 });
  expect([asOn(block, 'newer'), asOn(block, 'both')]).toEqual([block, block]);
});

test('an item has the number it had', () => {
  const block = compared({ kind: 'listItem', status: 'same', change: null, marker: '4.', markerWas: '3.' });
  expect(asOn(block, 'older')).toMatchObject({ marker: '3.' });
  expect(asOn(block, 'newer')).toMatchObject({ marker: '4.' });
});
