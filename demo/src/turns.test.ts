import fc from 'fast-check';
import { Turns } from './turns.ts';

test('whatever stories there are, all that happens happens in the order of time', async () => {
  const stories = fc.array(fc.array(fc.nat(1000), { maxLength: 8 }), { maxLength: 8 });
  await fc.assert(
    fc.asyncProperty(stories, async (given) => {
      const turns = new Turns();
      const happened: number[] = [];
      const live = async (moments: number[]): Promise<void> => {
        for (const at of [...moments].sort((a, b) => a - b)) {
          await turns.until(new Date(at));
          // An act takes a while.
          await new Promise(setImmediate);
          happened.push(at);
        }
      };
      await Promise.all(given.map((moments) => turns.live(() => live(moments))));
      expect(happened).toEqual(given.flat().sort((a, b) => a - b));
    }),
  );
});

test('a story that fails ends, and the others go on', async () => {
  const turns = new Turns();
  const happened: string[] = [];
  const outcomes = await Promise.allSettled([
    turns.live(async () => {
      await turns.until(new Date(1));
      throw new Error('no such version');
    }),
    turns.live(async () => {
      await turns.until(new Date(2));
      happened.push('the other');
    }),
  ]);
  expect(outcomes.map(({ status }) => status)).toEqual(['rejected', 'fulfilled']);
  expect(happened).toEqual(['the other']);
});
