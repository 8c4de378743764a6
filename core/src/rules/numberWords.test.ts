import { bareNumber, numberWords } from './numberWords.ts';

test('a number of an earlier numbering says so, one of the present numbering is itself', () => {
  expect(['8.0', '1~8.0', '2~3', '12~1.1'].map(numberWords)).toEqual([
    '8.0',
    '8.0 (first numbering)',
    '3 (second numbering)',
    '1.1 (12th numbering)',
  ]);
  expect(['8.0', '1~8.0'].map(bareNumber)).toEqual(['8.0', '8.0']);
});
