import { Refused } from '../refused.ts';
import { refuseStale } from './preconditions.ts';

const passes = (ifMatch: string | undefined): boolean => {
  try {
    refuseStale(ifMatch, '"4.2-abc"', { latest: '4.2' });
    return true;
  } catch (error) {
    expect(error).toBeInstanceOf(Refused);
    expect((error as Refused).refusal).toMatchObject({
      kind: 'stale',
      facts: { present: '"4.2-abc"', latest: '4.2' },
    });
    return false;
  }
};

test('If-Match (RFC 9110, 13.1.1): missing, star and one of a list pass', () => {
  for (const header of [undefined, '*', '"4.2-abc"', '"4.1-xyz", "4.2-abc"'])
    expect(passes(header)).toBe(true);
});

test('another tag, an empty list and a weak tag, which never matches strongly (8.8.3.2), are stale', () => {
  for (const header of ['"4.1-xyz"', '', 'W/"4.2-abc"', '4.2-abc']) expect(passes(header)).toBe(false);
});
