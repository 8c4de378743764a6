import type { Request, RequestHandler } from 'express';
import { ipKeyGenerator, rateLimit } from 'express-rate-limit';
import { slowDown } from 'express-slow-down';
import { sendProblem } from './problem.ts';

/** How long a wrong sign-in counts, in milliseconds. */
const remembered = 5 * 60_000;
/**
 * Wrong sign-ins to one account from one address before the next ones wait, by how much each more, at
 * most.
 */
const free = 5;
const step = 500;
const longest = 8_000;
/** Wrong sign-ins from one address, to whatever accounts, before each waits; and for how long. */
const freeOfAddress = 60;
const addressStep = 1_000;
/**
 * Tries that may wait or be made in a minute, to one account from one address, and from one address in
 * all.
 */
const mostAMinute = 30;
const mostOfAddress = 300;

const ofAddress = (req: Request): string => ipKeyGenerator(req.ip ?? '');
function ofPair(req: Request): string {
  const { account } = (req.body ?? {}) as { account?: unknown };
  const named = typeof account === 'string' ? account.trim().toLowerCase().slice(0, 60) : '';
  return `${ofAddress(req)} ${named}`;
}

/** What is said to who has come too often. */
interface TooOften {
  code: string;
  detail: string;
}
const tooManySignIns: TooOften = {
  code: 'too-many-sign-ins',
  detail: 'Too many wrong sign-ins from here. Wait a minute.',
};

/** Lets so many that come to nothing in a minute. */
const most = (
  limit: number,
  keyGenerator: (req: Request) => string,
  said: TooOften = tooManySignIns,
): RequestHandler =>
  rateLimit({
    windowMs: 60_000,
    limit,
    keyGenerator,
    skipSuccessfulRequests: true,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: (_req, res) => sendProblem(res, { status: 429, ...said }),
  });

/** Messages from one address, in a minute, that decide nothing: a mail system hands in those of many. */
const mostMail = 120;

/** Bounds what whoever is not signed in can hand in as mail. */
export const mailPace = (): RequestHandler =>
  most(mostMail, ofAddress, {
    code: 'too-much-mail',
    detail: 'Too many messages from here that decide nothing. Wait a minute.',
  });

/**
 * Slows wrong sign-ins down, by account and address together: nobody elsewhere keeps the holder of an account
 * out, and the right password is let in after a wait. Tries that would pile up are refused for a minute.
 */
export function signInPace(): RequestHandler[] {
  const common = { windowMs: remembered, skipSuccessfulRequests: true };
  return [
    most(mostAMinute, ofPair),
    most(mostOfAddress, ofAddress),
    slowDown({
      ...common,
      keyGenerator: ofPair,
      delayAfter: free,
      delayMs: (tries) => (tries - free) * step,
      maxDelayMs: longest,
    }),
    slowDown({ ...common, keyGenerator: ofAddress, delayAfter: freeOfAddress, delayMs: () => addressStep }),
  ];
}
