import { AsOf, type Route, routes } from '@polychron/contract';
import { refuse } from '@polychron/core';
import { type Request, type Response, Router } from 'express';
import type { Asker, Caller } from '../access/caller.ts';
import { refuseToCome } from '../access/lookingBack.ts';
import type { StagedFile } from '../content/staging.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { onAccountOf } from '../workers/account.ts';
import { fileMissing, readFileBody, readFormOrUpload } from './upload.ts';
import { requireModest, requireWellFormed } from './wellFormed.ts';

/**
 * What a handler is given. Bodies with files are read when the handler asks, after it has checked the
 * caller's rights.
 */
export interface Input<P, Q, B> {
  params: P;
  query: Q;
  body: B;
  /** Who asks, and on which state they act (If-Match). */
  asker: Asker;
  req: Request;
  res: Response;
  /** The form with its file. @throws Refused `file-missing` where a file is wanted and none came */
  form(): Promise<{ body: B; file: StagedFile | null }>;
  formWithFile(): Promise<{ body: B; file: StagedFile }>;
  file(fallbackName: string): Promise<StagedFile>;
}
type Handler<P, Q, B, A> = (input: Input<P, Q, B>) => Promise<A>;

/** Names of the operations, by their routes. */
const operations = new Map<unknown, string>(Object.entries(routes).map(([name, route]) => [route, name]));

/**
 * Connects routes of the contract to handlers: input is parsed by the contract, answers are sent with the
 * route's status.
 */
export class ContractRouter {
  readonly router = Router();

  constructor(private readonly context: Context) {}

  /** A route whose handler returns a value; `undefined` means the handler has sent the answer itself. */
  on<P, Q, B, A>(route: Route<P, Q, B, A>, handler: Handler<P, Q, B, A | undefined>): void {
    const operation = operations.get(route);
    this.router[route.method](route.path.replace(/\{(\w+)\}/g, ':$1'), async (req, res) => {
      res.locals['operation'] = operation;
      const staged: StagedFile[] = [];
      const used: string[] = [];
      // Files on their way in are gone before the answer is sent, whatever it is.
      const removeStaged = async (): Promise<void> => {
        for (const file of staged.splice(0)) await file.remove();
      };
      try {
        const input = this.read(route, req, res, { staged, used });
        if (route.method !== 'get') await this.context.room.requireForChange(route.open);
        const answer = await onAccountOf(req.caller?.id ?? '', () => handler(input), onceGone(res));
        await removeStaged();
        // What was refused can be tried again without sending the file again.
        for (const upload of used) await this.context.uploads.remove(upload);
        if (route.status === 204) res.status(204).end();
        else if (answer !== undefined) res.status(route.status).json(answer);
      } finally {
        await removeStaged();
      }
    });
  }

  private read<P, Q, B>(
    route: Route<P, Q, B>,
    req: Request,
    res: Response,
    { staged, used }: { staged: StagedFile[]; used: string[] },
  ): Input<P, Q, B> {
    const { context } = this;
    refuseRepeated(req.query);
    const { as, asOf, ...asked } = req.query;
    const caller = callerOf(route, req, route.seenAs ? as : undefined);
    const query = route.query.parse({
      ...asked,
      ...(route.seenAs || as === undefined ? {} : { as }),
      ...(route.asOf || asOf === undefined ? {} : { asOf }),
    });
    const moment = route.asOf ? momentAskedFor(asOf, context.clock()) : undefined;
    const parse = (given: unknown): B => {
      requireWellFormed(given);
      const parsed = (route.body as NonNullable<typeof route.body>).parse(given);
      // A field of a form may be JSON itself.
      requireWellFormed(parsed);
      return parsed;
    };
    const form = async (): Promise<{ body: B; file: StagedFile | null }> => {
      const { fields: sent, file } = await readFormOrUpload(context, req);
      const { upload, ...fields } = sent;
      if (file) staged.push(file);
      if (upload !== undefined) used.push(upload);
      // A field may be JSON itself.
      for (const value of Object.values(fields))
        if (/^\s*[[{]/.test(value)) requireModest(Buffer.from(value));
      return { body: parse(fields), file };
    };
    return {
      params: parseParams(route, req),
      query,
      req,
      res,
      asker: { context, caller, ifMatch: req.get('if-match'), asOf: moment },
      body: route.sends === 'json' ? parse(req.body ?? {}) : (undefined as B),
      form,
      formWithFile: async () => {
        const { body, file } = await form();
        if (file) return { body, file };
        throw fileMissing();
      },
      file: async (fallbackName) => {
        const { file, upload } = await readFileBody(context, req, fallbackName);
        staged.push(file);
        if (upload !== null) used.push(upload);
        return file;
      },
    };
  }
}

/** Does something once an answer has left, or nobody waits for it any more. */
const onceGone =
  (res: Response) =>
  (then: () => void): void => {
    if (res.closed) then();
    else res.once('close', then);
  };

/**
 * Who calls, looking as somebody else where asked. A route open to everybody may be called by nobody. @throws
 * Refused `not-signed-in`
 */
function callerOf(route: Pick<Route, 'open'>, req: Request, as: unknown): Caller {
  const caller = req.caller ?? null;
  if (!caller && !route.open) {
    throw new Refused(refuse('forbidden', 'not-signed-in', 'Sign in first.'));
  }
  const looks = caller && typeof as === 'string' && as !== '';
  return (looks ? { ...caller, as: as.trim() } : caller) as Caller;
}

/** The moment that is looked at. @throws Refused `as-of-future` where it is still to come */
function momentAskedFor(asOf: unknown, now: Date): Date | undefined {
  if (asOf === undefined || asOf === '') return undefined;
  const at = new Date(AsOf.parse({ asOf }).asOf);
  const refusal = refuseToCome(at, now);
  if (refusal) throw new Refused(refusal);
  return at;
}

/** Which of two values is meant nobody can tell. @throws Refused `parameter-repeated` */
function refuseRepeated(query: Request['query']): void {
  const repeated = Object.keys(query).find((name) => Array.isArray(query[name]));
  if (repeated === undefined) return;
  const reason = `The parameter ${repeated.slice(0, 60)} is given more than once. Give it once.`;
  throw new Refused(refuse('invalid', 'parameter-repeated', reason, { parameter: repeated.slice(0, 60) }));
}

/** An id that is none names nothing: 404, not 422. */
function parseParams<P>(route: Route<P>, req: Request): P {
  const parsed = route.params.safeParse(req.params);
  if (parsed.success) return parsed.data;
  throw new Refused(refuse('notFound', 'not-found', 'There is nothing at this address.'));
}
