import type { NextFunction, Request, Response } from 'express';

/**
 * Refuses what a page of another site, or a name pointed at this machine, could send: the Host must be this server's
 * own loopback address, and an Origin, where there is one, this server's own page.
 */
export function localOnly(port: () => number, devOrigins: readonly string[]) {
  return (request: Request, response: Response, next: NextFunction): void => {
    const hosts = ['127.0.0.1', 'localhost', '[::1]'].map((name) => `${name}:${port()}`);
    const { host, origin } = request.headers;
    const site = request.headers['sec-fetch-site'];
    if (!host || !hosts.includes(host.toLowerCase())) return refuse(response, 'This server answers on its loopback address only.');
    if (origin !== undefined && !hosts.some((h) => origin === `http://${h}`) && !devOrigins.includes(origin))
      return refuse(response, 'Requests from other sites are refused.');
    if (site === 'cross-site' && request.method !== 'GET') return refuse(response, 'Requests from other sites are refused.');
    next();
  };
}

function refuse(response: Response, message: string): void {
  response.status(403).json({ message });
}
