import { watch as watchFiles } from 'chokidar';
import { basename, join } from 'node:path';
import { type Client, Told } from '../client.ts';
import { heldIn } from '../folder.ts';
import { save } from './save.ts';
import { complain, say } from '../say.ts';

/** How long a file must rest before it is saved: programs write in several goes. In milliseconds. */
const rest = 400;

/** Saves whatever is held in a folder as often as it is written, until it is told to stop. */
export async function watch(
  client: Client,
  { folder, signal }: { folder: string; signal: AbortSignal },
): Promise<void> {
  const names = Object.keys(await heldIn(folder));
  if (names.length === 0) throw new Told('Nothing is held in this folder. Check a document out here first.');
  let work: Promise<void> = Promise.resolve();
  const onWritten = (path: string): void => {
    // One after the other; what is refused is told, and the next is tried all the same.
    work = work.then(() => saveAndTell(client, path));
  };
  const watcher = watchFiles(
    names.map((name) => join(folder, name)),
    // Editors write beside a file and put the new one in its place: that is a change too.
    { ignoreInitial: true, atomic: true, awaitWriteFinish: { stabilityThreshold: rest, pollInterval: 100 } },
  );
  watcher.on('change', onWritten).on('add', onWritten);
  await new Promise<void>((resolve) => {
    watcher.once('ready', () => resolve());
  });
  say(`Watching ${names.join(', ')}. Each time it is written it is saved; Ctrl C ends.`);
  await new Promise((resolve) => {
    signal.addEventListener('abort', resolve, { once: true });
  });
  await watcher.close();
  await work;
}

async function saveAndTell(client: Client, path: string): Promise<void> {
  try {
    const held = await save(client, path);
    if (held) say(`${held.number}: ${basename(path)} is saved.`);
  } catch (error) {
    if (!(error instanceof Told)) throw error;
    complain(error.message);
  }
}
