import type { Route } from '@polychron/contract';
import { z } from 'zod';

/** What is told to the person, and ends the command. */
export class Told extends Error {}

/** A refusal of the server, with its code (RFC 9457). */
export class Refused extends Told {
  constructor(
    message: string,
    readonly code: string,
    readonly status: number,
  ) {
    super(message);
  }
}

const Problem = z.object({ detail: z.string(), code: z.string() });

interface Asking<P, Q> {
  params?: P;
  query?: Partial<Q>;
  body?: unknown;
  form?: FormData;
  blob?: Blob;
  headers?: Record<string, string>;
}

/** A server, asked in the name of whoever's token it is. */
export class Client {
  constructor(
    readonly server: string,
    private readonly token: string,
  ) {}

  /** Calls a route of the contract. @throws Refused, Told where the server cannot be reached */
  async call<P, Q, B, A>(route: Route<P, Q, B, A>, asking: Asking<P, Q> = {}): Promise<A> {
    const response = await this.ask(route, asking);
    return (response.status === 204 ? undefined : await response.json()) as A;
  }

  /** As `call`, but for the answer as it came. */
  async ask<P, Q, B, A>(route: Route<P, Q, B, A>, asking: Asking<P, Q> = {}): Promise<Response> {
    const { params, query = {}, body, form, blob, headers = {} } = asking;
    const given = (params ?? {}) as Record<string, string>;
    const path = route.path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(given[name] ?? ''));
    const url = new URL(`${this.server}/api/v1${path}`);
    for (const [name, value] of Object.entries(query))
      if (value !== undefined) url.searchParams.set(name, String(value));
    const sent = sentAs({ body, form, blob });
    const response = await fetch(url, {
      method: route.method.toUpperCase(),
      // What is sent is meant for this server, not for where it leads.
      redirect: 'manual',
      headers: { Authorization: `Bearer ${this.token}`, ...sent.headers, ...headers },
      ...(sent.body === undefined ? {} : { body: sent.body }),
    }).catch((error: unknown) => {
      throw new Told(`${this.server} cannot be reached: ${reasonOf(error)}`);
    });
    if (response.ok) return response;
    const elsewhere = response.headers.get('location');
    if (response.status < 400 && elsewhere !== null)
      throw new Told(
        `${this.server} leads to ${elsewhere}. Nothing was sent there; sign in there if that is right.`,
      );
    const problem = Problem.safeParse(await response.json().catch(() => null));
    if (!problem.success) throw new Told(`${this.server} answered ${response.status} without a reason.`);
    throw new Refused(problem.data.detail, problem.data.code, response.status);
  }
}

function sentAs({ body, form, blob }: Pick<Asking<never, never>, 'body' | 'form' | 'blob'>): {
  headers: Record<string, string>;
  body?: string | FormData | Blob;
} {
  if (form) return { headers: {}, body: form };
  if (blob) return { headers: { 'Content-Type': 'application/octet-stream' }, body: blob };
  if (body === undefined) return { headers: {} };
  return { headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) };
}

function reasonOf(error: unknown): string {
  const { cause, message } = error as Error;
  return cause instanceof Error ? cause.message : message;
}
