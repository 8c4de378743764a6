import type { ErrorRequestHandler, Response } from 'express';
import { z } from 'zod';
import type { RefusalKind } from '@polychron/core';
import { diskFull } from '../content/room.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { CommitInDoubt, isDatabaseFull, isPassing, isUnreachable } from '../store/database.ts';
import { waitEvenly } from './evenly.ts';

const statuses: Record<RefusalKind, number> = {
  forbidden: 403,
  notFound: 404,
  conflict: 409,
  question: 409,
  invalid: 422,
  stale: 412,
};
/** Codes whose status is not that of their kind. */
const ownStatus: Record<string, number> = {
  'sign-in-failed': 401,
  'not-signed-in': 401,
  'file-too-large': 413,
  'bad-cursor': 400,
  'bad-depth': 400,
  'malformed-xml': 400,
  'disk-full': 507,
  'too-much-at-once': 503,
};
const titles: Record<number, string> = {
  400: 'Not understood',
  401: 'Not signed in',
  403: 'Not allowed',
  404: 'Not found',
  406: 'No such form',
  409: 'Not now',
  412: 'Changed meanwhile',
  413: 'Too large',
  415: 'Wrong kind of body',
  422: 'Not accepted',
  429: 'Too often',
  500: 'Our fault',
  503: 'For a moment not',
  507: 'No room',
};

export interface ProblemFacts {
  status: number;
  code: string;
  detail: string;
  facts?: Record<string, unknown>;
}

/** Answers with problem details (RFC 9457). */
export function sendProblem(res: Response, { status, code, detail, facts = {} }: ProblemFacts): void {
  res
    .status(status)
    .type('application/problem+json')
    .send(
      JSON.stringify({
        ...facts,
        type: `/api/docs#${code}`,
        title: titles[status] ?? 'Refused',
        status,
        detail,
        code,
      }),
    );
}

/** Told of a refusal, by the name of the operation; undefined where the request came to none. */
export type OnRefusal = (operation: string | undefined, problem: ProblemFacts) => void;

/**
 * Turns what a handler threw into problem details; only what nobody expected is a 500, and is logged.
 * @param options.evenly whether what is not there, or hidden, is answered after even times
 */
export function problems(
  context: Context,
  { evenly, onRefusal }: { evenly: boolean; onRefusal: OnRefusal | undefined },
): ErrorRequestHandler {
  return async (error: unknown, req, res, next) => {
    if (res.headersSent) {
      next(error);
      return;
    }
    const problem = toProblem(error, req.method);
    onRefusal?.(res.locals['operation'] as string | undefined, problem);
    if (problem.status === 503) {
      context.log.warn({ err: error, method: req.method, url: req.originalUrl }, 'not answered for a moment');
      res.set('Retry-After', retryAfter);
    } else if (problem.status === 500)
      context.log.error({ err: error, method: req.method, url: req.originalUrl }, 'unexpected error');
    if (problem.status === 404 && evenly) await waitEvenly(res);
    sendProblem(res, problem);
  };
}

/** When to ask again, in seconds (RFC 9110, 10.2.3): a database that restarts is back within a few. */
const retryAfter = '3';

/** What is said while the database cannot be reached: nothing was changed, or that it is not known. */
function databaseAway(error: unknown, method: string): ProblemFacts {
  if (error instanceof CommitInDoubt) {
    const detail =
      'The database went away at the moment of keeping it: whether it was kept is not known. Look before you do it again.';
    return { status: 503, code: 'not-known-whether-kept', detail };
  }
  const changed = ['GET', 'HEAD'].includes(method) ? '' : ' Nothing was changed.';
  const detail = `The database cannot be reached just now.${changed} Try again in a moment.`;
  return { status: 503, code: 'database-away', detail };
}

/** Every try of an act met others at the same rows; the last one was undone as those before. */
const tooManyAtOnce: ProblemFacts = {
  status: 503,
  code: 'too-many-at-once',
  detail: 'Too many people work on the same at this moment. Nothing was changed. Try again in a moment.',
};

/** How much of what is wrong with a request is told, and how many signs of each. */
const mostIssues = 20;
const longestIssue = 500;

function toProblem(error: unknown, method: string): ProblemFacts {
  if (isUnreachable(error)) return databaseAway(error, method);
  if (isPassing(error)) return tooManyAtOnce;
  if (isDatabaseFull(error)) return toProblem(diskFull(null), method);
  if (error instanceof Refused) {
    const { kind, code, reason, facts } = error.refusal;
    return { status: ownStatus[code] ?? statuses[kind], code, detail: reason, facts };
  }
  if (error instanceof z.ZodError) {
    const issues = error.issues.slice(0, mostIssues).map(({ path, message }) => ({
      where: path.join('.').slice(0, longestIssue),
      message: message.slice(0, longestIssue),
    }));
    return {
      status: 422,
      code: 'invalid-input',
      detail: issues
        .map(({ where, message }) => `${where || 'The request'}: ${message}`)
        .join('; ')
        .slice(0, 2000),
      facts: { issues },
    };
  }
  return fromLibrary(error as { type?: string; status?: number; code?: string; message?: string });
}

/** Errors of the HTTP libraries that a request, not we, brought about. */
function fromLibrary(error: {
  type?: string;
  status?: number;
  code?: string;
  message?: string;
}): ProblemFacts {
  if (error.type === 'entity.parse.failed')
    return { status: 400, code: 'malformed-json', detail: 'The body is not JSON. Check quotes and commas.' };
  if (error.type === 'entity.too.large')
    return { status: 413, code: 'body-too-large', detail: 'The body is larger than this route takes.' };
  if (
    error.code === 'ERR_STREAM_PREMATURE_CLOSE' ||
    error.code === 'ECONNRESET' ||
    error.type === 'request.aborted'
  ) {
    return {
      status: 400,
      code: 'upload-interrupted',
      detail: 'The upload was cut off. Nothing was changed; send it again.',
    };
  }
  if (
    error instanceof URIError ||
    (error.status !== undefined && error.status >= 400 && error.status < 500)
  ) {
    return {
      status: error.status ?? 400,
      code: 'malformed-request',
      detail: 'The request could not be understood. Check its address and headers.',
    };
  }
  return {
    status: 500,
    code: 'unexpected',
    detail:
      'Something went wrong on our side. Nothing was changed; try again, and tell your administrator if it goes on.',
  };
}
