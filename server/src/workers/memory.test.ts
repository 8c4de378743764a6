import { onAccountOf } from './account.ts';
import { Memory } from './memory.ts';

/** Work that lasts until it is told to end; `going` has the names of what is under way, in their order. */
function workshop(memory: Memory) {
  const going: string[] = [];
  const ends = new Map<string, () => void>();
  const begin = (name: string, bytes: number): Promise<void> =>
    memory.within(bytes, async () => {
      going.push(name);
      await new Promise<void>((resolve) => {
        ends.set(name, resolve);
      });
    });
  const end = async (name: string): Promise<void> => {
    ends.get(name)?.();
    going.splice(going.indexOf(name), 1);
    await settled();
  };
  return { going, begin, end };
}
const settled = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));
const bounds = { ofOne: 100, ofAll: 250, patience: 60_000 };

test('one person has so much at once, and waits for themselves alone', async () => {
  const { going, begin, end } = workshop(new Memory(bounds));
  onAccountOf('a', () => [begin('a1', 60), begin('a2', 60), begin('a3', 40)].length);
  onAccountOf('b', () => void begin('b1', 100));
  await settled();
  expect(going).toEqual(['a1', 'a3', 'b1']);
  await end('a3');
  expect(going).toEqual(['a1', 'b1']);
  await end('a1');
  expect(going).toEqual(['b1', 'a2']);
});

test('what is more than there is goes by itself, and nothing overtakes it for ever', async () => {
  const { going, begin, end } = workshop(new Memory(bounds));
  onAccountOf('a', () => void begin('a1', 90));
  onAccountOf('b', () => void begin('b1', 1000));
  onAccountOf('c', () => void begin('c1', 10));
  await settled();
  expect(going).toEqual(['a1']);
  await end('a1');
  expect(going).toEqual(['b1']);
  await end('b1');
  expect(going).toEqual(['c1']);
});

test('an answer has its memory until it has left, with all that is done for it', async () => {
  const memory = new Memory(bounds);
  const leave: (() => void)[] = [];
  const answer = (): Promise<string> =>
    onAccountOf(
      'a',
      async () => {
        await memory.within(80, async () => 'a first file');
        // Waiting for what it holds itself would be for ever.
        return memory.within(90, async () => 'a second');
      },
      (release) => leave.push(release),
    );
  expect(await answer()).toBe('a second');
  let next = '';
  const coming = answer().then((given) => (next = given));
  await settled();
  expect([next, leave.length]).toEqual(['', 1]);
  leave[0]?.();
  await coming;
  expect(leave).toHaveLength(2);
});

test('who waits too long is refused, and leaves no trace', async () => {
  const memory = new Memory({ ...bounds, patience: 20 });
  const { begin, end, going } = workshop(memory);
  const first = onAccountOf('a', () => begin('a1', 100));
  const refused = onAccountOf('a', () => begin('a2', 100));
  await expect(refused).rejects.toMatchObject({ refusal: { code: 'too-much-at-once' } });
  await end('a1');
  await first;
  onAccountOf('a', () => void begin('a3', 100));
  await settled();
  expect(going).toEqual(['a3']);
});
