import { type Request, type Response, Router } from 'express';
import type { Route } from '@polychron/contract';
import { refuse } from '@polychron/core';
import type { StagedFile } from '../content/staging.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import type { Caller } from '../services/access.ts';
import { readFileBody, readForm } from './upload.ts';

/** What a handler is given. Bodies with files are read when the handler asks, after it has checked the caller's rights. */
export interface Input<P, Q, B> {
  params: P;
  query: Q;
  body: B;
  caller: Caller;
  req: Request;
  res: Response;
  form(): Promise<{ body: B; file: StagedFile | null }>;
  file(fallbackName: string): Promise<StagedFile>;
}
type Handler<P, Q, B, A> = (input: Input<P, Q, B>) => Promise<A>;

/** Connects routes of the contract to handlers: input is parsed by the contract, answers are sent with the route's status. */
export class Door {
  readonly router = Router();

  constructor(private readonly context: Context) {}

  /** A route whose handler answers a value; `undefined` means the handler has sent the answer itself. */
  on<P, Q, B, A>(route: Route<P, Q, B, A>, handler: Handler<P, Q, B, A | undefined>): void {
    this.router[route.method](route.path.replace(/\{(\w+)\}/g, ':$1'), async (req, res) => {
      const staged: StagedFile[] = [];
      // Files on their way in are gone before the answer is sent, whatever it is.
      const removeStaged = async (): Promise<void> => { for (const file of staged.splice(0)) await file.remove(); };
      try {
        const answer = await handler(this.read(route, req, res, staged));
        await removeStaged();
        if (route.status === 204) res.status(204).end();
        else if (answer !== undefined) res.status(route.status).json(answer);
      } finally {
        await removeStaged();
      }
    });
  }

  private read<P, Q, B>(route: Route<P, Q, B>, req: Request, res: Response, staged: StagedFile[]): Input<P, Q, B> {
    const caller = req.caller ?? null;
    if (!route.open && !caller) throw new Refused(refuse('forbidden', 'not-signed-in', 'Sign in first.'));
    const { as, ...asked } = req.query;
    const query = route.query.parse(route.seenAs ? asked : req.query);
    const body = (given: unknown): B => (route.body as NonNullable<typeof route.body>).parse(given);
    return {
      params: parseParams(route, req), query, req, res,
      caller: (route.seenAs && caller && typeof as === 'string' && as !== '' ? { ...caller, as: as.trim() } : caller) as Caller,
      body: route.sends === 'json' ? body(req.body ?? {}) : undefined as B,
      form: async () => {
        const form = await readForm(this.context, req);
        if (form.file) staged.push(form.file);
        return { body: body(form.fields), file: form.file };
      },
      file: async (fallbackName) => {
        const file = await readFileBody(this.context, req, fallbackName);
        staged.push(file);
        return file;
      },
    };
  }
}


/** An id that is none names nothing: 404, not 422. */
function parseParams<P>(route: Route<P>, req: Request): P {
  const parsed = route.params.safeParse(req.params);
  if (!parsed.success) throw new Refused(refuse('notFound', 'not-found', 'There is nothing at this address.'));
  return parsed.data;
}
