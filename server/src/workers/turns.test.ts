import { onAccountOf, workOwner } from './account.ts';
import { isCutShort, Turns } from './turns.ts';

const long = 2 << 20;

/** Until everything that can go on has. */
const settled = (): Promise<void> =>
  new Promise((resolve) => {
    setImmediate(resolve);
  });

/** Tasks that end when told, and the order in which they were started. */
class Tasks {
  readonly started: string[] = [];
  private readonly ends = new Map<string, (error?: Error) => void>();
  private readonly turns = new Turns(3);
  readonly limits: number[] = [];

  placeOf(owner: string): ReturnType<Turns['placeOf']> {
    return this.turns.placeOf(owner);
  }

  begin(name: string, bytes = 10): Promise<string> {
    const [owner = ''] = name.split(' ');
    return this.turns.take({ owner, bytes }, (limit) => {
      this.started.push(name);
      this.limits.push(limit);
      return new Promise((resolve, reject) => {
        this.ends.set(name, (error) => (error ? reject(error) : resolve(name)));
      });
    });
  }

  async end(name: string, error?: Error): Promise<void> {
    this.ends.get(name)?.(error);
    await settled();
  }
}

test("of one person one long task is at work; another person's does not wait for their queue", async () => {
  const tasks = new Tasks();
  for (const name of ['a 1', 'a 2', 'a 3', 'b 1', 'b 2']) void tasks.begin(name, long);
  await settled();
  expect(tasks.started).toEqual(['a 1', 'b 1']);
  await tasks.end('b 1');
  expect(tasks.started).toEqual(['a 1', 'b 1', 'b 2']);
  await tasks.end('a 1');
  expect(tasks.started.at(-1)).toBe('a 2');
});

test('a place in the queue is told: what is at work, and what comes before', async () => {
  const tasks = new Tasks();
  for (const name of ['a 1', 'b 1', 'a 2', 'c 1', 'c 2']) void tasks.begin(name, long);
  await settled();
  expect(tasks.placeOf('a')).toEqual({ working: 1, waiting: 1, ahead: 4 });
  expect(tasks.placeOf('c')).toEqual({ working: 0, waiting: 2, ahead: 2 });
  expect(tasks.placeOf('d')).toEqual({ working: 0, waiting: 0, ahead: null });
  await tasks.end('b 1');
  expect(tasks.placeOf('c')).toEqual({ working: 1, waiting: 1, ahead: 3 });
  await tasks.end('a 1');
  expect(tasks.placeOf('a')).toEqual({ working: 1, waiting: 0, ahead: null });
});

test('a short task starts at once however many long ones are at work or wait', async () => {
  const tasks = new Tasks();
  for (const name of ['a 1', 'b 1', 'c 1', 'd 1']) void tasks.begin(name, long);
  await settled();
  expect(tasks.started).toEqual(['a 1', 'b 1']);
  void tasks.begin('e 1');
  await settled();
  expect(tasks.started.at(-1)).toBe('e 1');
});

test("many short ones of one person: another's starts at once", async () => {
  const tasks = new Tasks();
  for (let index = 0; index < 20; index += 1) void tasks.begin(`a ${index}`);
  await settled();
  expect(tasks.started).toEqual(['a 0', 'a 1']);
  void tasks.begin('b 0');
  await settled();
  expect(tasks.started.at(-1)).toBe('b 0');
  await tasks.end('a 0');
  expect(tasks.started.at(-1)).toBe('a 2');
});

test('what was taken for short and is not is done again among the long ones, with their time', async () => {
  const tasks = new Tasks();
  const done = tasks.begin('a 1');
  void tasks.begin('a 2', long);
  await settled();
  await tasks.end('a 1', new DOMException('too long', 'TimeoutError'));
  expect(tasks.started).toEqual(['a 1', 'a 2']);
  await tasks.end('a 2');
  expect(tasks.started).toEqual(['a 1', 'a 2', 'a 1']);
  expect(tasks.limits[2]).toBeGreaterThan(tasks.limits[0] as number);
  await tasks.end('a 1');
  expect(await done).toBe('a 1');
});

test('a task that fails gives its place to the next, and its error to whoever asked', async () => {
  const tasks = new Tasks();
  const failing = tasks.begin('a 1', long);
  void tasks.begin('a 2', long);
  await settled();
  const told = failing.catch((error: unknown) => error);
  await tasks.end('a 1', new Error('broken'));
  expect(await told).toMatchObject({ message: 'broken' });
  expect(tasks.started).toEqual(['a 1', 'a 2']);
  expect(isCutShort(new Error('broken'))).toBe(false);
});

test('work is on the account of whoever asked for it, through everything that is awaited', async () => {
  const seen = await onAccountOf('one', async () => {
    await new Promise((resolve) => {
      setTimeout(resolve, 1);
    });
    return workOwner();
  });
  expect([seen, workOwner()]).toEqual(['one', '']);
});
