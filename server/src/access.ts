import { createHash, timingSafeEqual } from 'node:crypto';
import type { Request, RequestHandler } from 'express';

const digest = (text: string) => createHash('sha256').update(text).digest();
const alike = (one: string, other: string) => timingSafeEqual(digest(one), digest(other));

const loopback = new Set(['127.0.0.1', '::1', '::ffff:127.0.0.1']);
const localNames = new Set(['localhost', '127.0.0.1', '[::1]']);
const cookieName = 'jig-peel-token';

/** Does the call come from this machine itself, by its own name? A page of another site that a name was bent for, or a proxy, does not count. */
function isLocal(request: Request): boolean {
  const host = (request.headers.host ?? '').replace(/:\d+$/, '').toLowerCase();
  return (
    loopback.has(request.socket.remoteAddress ?? '') &&
    localNames.has(host) &&
    request.headers['x-forwarded-for'] === undefined &&
    request.headers.forwarded === undefined
  );
}

function cookieOf(request: Request): string {
  const found = (request.headers.cookie ?? '').split(';').find((one) => one.trim().startsWith(`${cookieName}=`));
  return found ? found.trim().slice(cookieName.length + 1) : '';
}

/** Turns an address with `?token=` into a cookie, so that a browser elsewhere is let in by a link. */
export const tokenByLink =
  (token: string): RequestHandler =>
  (request, response, next) => {
    const given = request.query.token;
    if (typeof given !== 'string') {
      next();
      return;
    }
    if (!alike(given, token)) {
      response.status(401).type('text').send('This link’s token is not the server’s');
      return;
    }
    response.cookie(cookieName, token, { httpOnly: true, sameSite: 'strict', path: '/' });
    response.redirect(303, request.path);
  };

/** Lets in calls of this machine, and others that bring the token; a change only from pages of this server. */
export const guarded =
  (token: string): RequestHandler =>
  (request, response, next) => {
    const bearer = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? '';
    if (!isLocal(request) && !alike(bearer, token) && !alike(cookieOf(request), token)) {
      response
        .status(401)
        .json({ sentence: 'This server takes batches from elsewhere only with its token: open the link that it printed when it was started.' });
      return;
    }
    const { origin } = request.headers;
    if (request.method !== 'GET' && origin !== undefined && hostOf(origin) !== request.headers.host) {
      response.status(403).json({ sentence: 'Another site’s page may not change anything here.' });
      return;
    }
    next();
  };

function hostOf(origin: string): string | null {
  try {
    return new URL(origin).host;
  } catch {
    return null;
  }
}
