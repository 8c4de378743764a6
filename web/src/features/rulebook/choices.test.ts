import { choicesOf, choicesText } from './choices.ts';

test('choices are lines, what is within one stands behind its colon', () => {
  const text = 'Ropes: Haul rope, Track rope\nTowers\n\n Cabins :  Doors ,, ';
  const choices = [
    { name: 'Ropes', within: ['Haul rope', 'Track rope'] },
    { name: 'Towers', within: [] },
    { name: 'Cabins', within: ['Doors'] },
  ];
  expect(choicesOf(text)).toEqual(choices);
  expect(choicesText(choices)).toBe('Ropes: Haul rope, Track rope\nTowers\nCabins: Doors');
  expect(choicesOf(choicesText(choices))).toEqual(choices);
});
