import { createHmac, timingSafeEqual } from 'node:crypto';
import { isIP } from 'node:net';
import express, { type NextFunction, type Request, type RequestHandler, type Response } from 'express';
import { ipKeyGenerator, MemoryStore, rateLimit, type Options } from 'express-rate-limit';
import { signInPage } from './sign-in-page.js';

export interface GateChoice {
  /** The port it came to listen on. */
  readonly port: () => number;
  /** Answering beyond this machine, where set; then `token` is too. */
  readonly beyondLoopback: boolean;
  readonly token: string | undefined;
  /** Names this server goes by in a network, besides its addresses. */
  readonly names: readonly string[];
  readonly devOrigins: readonly string[];
}

const LOOPBACK = ['127.0.0.1', 'localhost', '[::1]'];
const COOKIE = 'idle-bend';
/** Wrong tokens from one address in a minute. */
const MAX_GUESSES = 20;
/** Requests from one address in a minute: a person scrubbing through stills asks for a few dozen a second. */
const MAX_REQUESTS = 30_000;
const MINUTE = 60_000;

/**
 * What stands before everything else: refuses what a page of another site, or a name pointed at this machine, could send, and beyond this
 * machine whoever does not know the token. Pages, files, events and uploads all pass through it.
 */
export function gate(choice: GateChoice): RequestHandler[] {
  const refuse = (message: string) => (_: Request, response: Response) => void response.status(429).json({ message });
  const plain = { windowMs: MINUTE, standardHeaders: false, legacyHeaders: false } as const;
  const flood = rateLimit({
    ...plain,
    limit: MAX_REQUESTS,
    handler: refuse('Too many requests from this address; wait a minute.'),
  });
  const handlers: RequestHandler[] = [rightHost(choice), flood];
  if (choice.token === undefined) return handlers;
  const key = new Key(choice.token);
  const guesses = new Guesses();
  return [
    ...handlers,
    express.urlencoded({ extended: false, limit: '4kb' }),
    signIn(key, guesses),
    knowsToken(key, guesses),
  ];
}

/** Counts wrong tokens by address: only what was a token, and wrong. Streams that stay open and downloads that are broken off are none. */
class Guesses {
  private readonly store = new MemoryStore();

  constructor() {
    this.store.init({ windowMs: MINUTE } as Options);
  }

  /** Whether that address has to wait before it tries another token. */
  async spent(request: Request): Promise<boolean> {
    return ((await this.store.get(addressOf(request)))?.totalHits ?? 0) >= MAX_GUESSES;
  }

  async wrong(request: Request): Promise<void> {
    await this.store.increment(addressOf(request));
  }
}

const addressOf = (request: Request): string => ipKeyGenerator(request.ip ?? request.socket.remoteAddress ?? '');
const TOO_MANY = 'Too many wrong tokens from this address; wait a minute.';

/** The Host must be this server's own, and an Origin, where there is one, this server's own page. A name is only taken where it was given: an address in figures cannot be pointed elsewhere. */
function rightHost({ port, beyondLoopback, names, devOrigins }: GateChoice): RequestHandler {
  return (request, response, next) => {
    const { host, origin } = request.headers;
    const own = host?.toLowerCase() ?? '';
    const name = own.replace(/:\d+$/, '');
    const isOwn =
      LOOPBACK.some((n) => own === `${n}:${port()}`) ||
      (beyondLoopback && (isIP(name.replace(/^\[|\]$/g, '')) > 0 || names.includes(name)));
    if (!isOwn)
      return refuse(
        response,
        beyondLoopback
          ? 'This server does not go by that name; tell it with IDLE_BEND_NAMES.'
          : 'This server answers on its loopback address only.',
      );
    const sameSite =
      origin === undefined ||
      LOOPBACK.some((n) => origin === `http://${n}:${port()}`) ||
      (beyondLoopback && (origin === `http://${own}` || origin === `https://${own}`));
    if (!sameSite && !devOrigins.includes(origin)) return refuse(response, 'Requests from other sites are refused.');
    if (request.headers['sec-fetch-site'] === 'cross-site' && request.method !== 'GET')
      return refuse(response, 'Requests from other sites are refused.');
    next();
  };
}

function refuse(response: Response, message: string): void {
  response.status(403).json({ message });
}

/** Compares without telling by its time how much was right. */
class Key {
  constructor(private readonly token: string) {}

  /** What a browser keeps: it proves the token was known, and is not the token. */
  get cookie(): string {
    return this.sealed('cookie');
  }

  opens(token: string): boolean {
    return same(
      createHmac('sha256', this.token).update(token).digest(),
      createHmac('sha256', this.token).update(this.token).digest(),
    );
  }

  knows(cookie: string | undefined): boolean {
    return cookie !== undefined && same(Buffer.from(cookie), Buffer.from(this.cookie));
  }

  private sealed(what: string): string {
    return createHmac('sha256', this.token).update(`idle-bend ${what}`).digest('base64url');
  }
}

const same = (a: Buffer, b: Buffer) => a.length === b.length && timingSafeEqual(a, b);

function cookieOf(request: Request): string | undefined {
  const parts = (request.headers.cookie ?? '').split(';').map((part) => part.trim());
  return parts.find((part) => part.startsWith(`${COOKIE}=`))?.slice(COOKIE.length + 1);
}

function signIn(key: Key, guesses: Guesses): RequestHandler {
  return async (request, response, next) => {
    if (request.path !== '/sign-in' || request.method !== 'POST') return next();
    if (await guesses.spent(request)) return void response.status(429).type('html').send(signInPage(TOO_MANY));
    const { token } = (request.body ?? {}) as { token?: unknown };
    if (typeof token !== 'string' || !key.opens(token)) {
      await guesses.wrong(request);
      return void response.status(401).type('html').send(signInPage('That is not the token.'));
    }
    response.cookie(COOKIE, key.cookie, {
      httpOnly: true,
      sameSite: 'strict',
      path: '/',
      maxAge: 30 * 24 * 3600 * 1000,
    });
    response.redirect(303, '/');
  };
}

function knowsToken(key: Key, guesses: Guesses) {
  return async (request: Request, response: Response, next: NextFunction): Promise<void> => {
    // What a browser keeps cannot be guessed, so it is not counted, and lets its user in whatever others try from the same address.
    if (key.knows(cookieOf(request))) return next();
    const bearer = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
    if (bearer !== undefined) {
      if (await guesses.spent(request)) return void response.status(429).json({ message: TOO_MANY });
      if (key.opens(bearer)) return next();
      await guesses.wrong(request);
    }
    const wantsPage =
      request.method === 'GET' && !request.path.startsWith('/api/') && request.accepts(['html', 'json']) === 'html';
    if (wantsPage) response.status(401).type('html').send(signInPage());
    else response.status(401).json({ message: 'This server asks for its token.' });
  };
}
