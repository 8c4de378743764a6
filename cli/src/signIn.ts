import { routes } from '@polychron/contract';
import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { homedir } from 'node:os';
import { dirname, join } from 'node:path';
import { z } from 'zod';
import { Client, Told } from './client.ts';

const SignIn = z.object({ server: z.url(), token: z.string().min(1) });

/** Where it is kept who signs in where (XDG Base Directory Specification 0.8). */
function placeOf(env: NodeJS.ProcessEnv): string {
  const folder = env['XDG_CONFIG_HOME'] || join(homedir(), '.config');
  return join(folder, 'polychron', 'sign-in.json');
}

/** Signs in and remembers it, for this person's eyes alone; returns their name. @throws Refused */
export async function signIn(env: NodeJS.ProcessEnv, server: string, token: string): Promise<string> {
  const address = server.replace(/\/+$/, '');
  if (!URL.canParse(address)) throw new Told(`${server} is no address. It begins with http:// or https://.`);
  const { name } = await new Client(address, token).call(routes.readSession);
  const place = placeOf(env);
  await mkdir(dirname(place), { recursive: true, mode: 0o700 });
  await writeFile(place, JSON.stringify({ server: address, token }), { mode: 0o600 });
  return name;
}

/** The server one is signed in at. @throws Told where one is not */
export async function signedIn(env: NodeJS.ProcessEnv): Promise<Client> {
  const text = await readFile(placeOf(env), 'utf8').catch(ifMissing);
  if (text === null) throw new Told('You are not signed in. Run: polychron sign-in ADDRESS');
  const { server, token } = SignIn.parse(JSON.parse(text));
  return new Client(server, token);
}

/** Forgets it; the token itself is revoked in the page. */
export const signOut = (env: NodeJS.ProcessEnv): Promise<void> => rm(placeOf(env), { force: true });

/** Null for a file that is not there; anything else is a fault. */
export function ifMissing(error: unknown): null {
  if ((error as { code?: string }).code === 'ENOENT') return null;
  throw error;
}
