import {
  CommitInDoubt,
  type Database,
  isDatabaseFull,
  isUnreachable,
  transact,
  type Tx,
} from './database.ts';

/** Errors as the connector and Sequelize throw them. */
const lost = Object.assign(new Error('socket has unexpectedly been closed'), { fatal: true, errno: 45009 });
const failed = (errno: number, fatal = false): Error =>
  Object.assign(new Error(`error ${errno}`), { parent: { errno, fatal, message: '' } });

/** A database whose transactions go as told: `work` is done, then what the commit comes to. */
function databaseThat(commit: () => void): Database {
  const transaction = async (work: (tx: Tx) => Promise<unknown>): Promise<unknown> => {
    const done = await work({} as Tx);
    commit();
    return done;
  };
  return { transaction } as unknown as Database;
}
const throwing = (error: Error) => (): never => {
  throw error;
};

test('a database lost during the work has kept nothing: the error says so as it is', async () => {
  await expect(
    transact(
      databaseThat(() => undefined),
      throwing(lost),
    ),
  ).rejects.toBe(lost);
});

test('a database lost during the commit leaves it in doubt, and nothing is tried again', async () => {
  let tries = 0;
  const work = async (): Promise<void> => {
    tries += 1;
  };
  await expect(transact(databaseThat(throwing(lost)), work)).rejects.toBeInstanceOf(CommitInDoubt);
  expect(tries).toBe(1);
});

test('a deadlock is tried again, and what then succeeds is returned', async () => {
  let tries = 0;
  const work = async (): Promise<number> => {
    tries += 1;
    if (tries < 3) throw failed(1213);
    return tries;
  };
  expect(
    await transact(
      databaseThat(() => undefined),
      work,
    ),
  ).toBe(3);
});

test('a doubt about an earlier try is none about a later one', async () => {
  let tries = 0;
  const database = databaseThat(() => {
    tries += 1;
    if (tries === 1) throw failed(1213);
  });
  const work = async (): Promise<void> => {
    if (tries === 1) throw lost;
  };
  await expect(transact(database, work)).rejects.toBe(lost);
});

test.each<[string, unknown, boolean, boolean]>([
  ['a lost socket', lost, true, false],
  ['a lost connection beneath a query', failed(45009, true), true, false],
  [
    'a refused connection',
    Object.assign(new Error(''), { name: 'SequelizeConnectionRefusedError' }),
    true,
    false,
  ],
  ['a server that shuts down', failed(1053), true, false],
  ['a commit in doubt', new CommitInDoubt(lost), true, false],
  ['a full disk', failed(1021), false, true],
  ['a full table', failed(1114), false, true],
  ['a second row of a key', failed(1062), false, false],
  ['an error of ours', new TypeError('x is undefined'), false, false],
])('%s is told for what it is', (_, error, unreachable, full) => {
  expect([isUnreachable(error), isDatabaseFull(error)]).toEqual([unreachable, full]);
});
