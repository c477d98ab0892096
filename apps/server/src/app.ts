import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { Module, ValidationPipe, type DynamicModule } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import express, { type NextFunction, type Request, type RequestHandler, type Response } from 'express';
import helmet from 'helmet';
import { BinModule } from './bin/bin.module.js';
import { Config } from './config.js';
import { DiskModule } from './disk/disk.module.js';
import { DemoProject } from './demo/demo-project.js';
import { FootageModule } from './footage/footage.module.js';
import { Uploads } from './exchange/uploads.js';
import { ExchangeModule } from './exchange/exchange.module.js';
import { ProjectsModule } from './projects/projects.module.js';
import { RendersModule } from './renders/renders.module.js';
import { StorageModule } from './storage/storage.module.js';
import { TrustModule } from './trust/trust.module.js';
import { gate } from './trust/gate.js';
import { serverLog } from './trust/log.js';
import { ErrorFilter } from './trust/error.filter.js';

/** The whole server, area by area. */
@Module({})
class AppModule {
  static with(config: Config): DynamicModule {
    return {
      module: AppModule,
      imports: [
        StorageModule.with(config),
        ProjectsModule,
        FootageModule,
        RendersModule,
        BinModule,
        DiskModule,
        ExchangeModule,
        TrustModule,
      ],
      providers: [DemoProject],
    };
  }
}

/** The policy of every page: nothing from elsewhere, WebAssembly allowed, pictures from memory. */
const CONTENT_POLICY = {
  useDefaults: false,
  directives: {
    defaultSrc: ["'self'"],
    scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
    styleSrc: ["'self'", "'unsafe-inline'"],
    imgSrc: ["'self'", 'data:', 'blob:'],
    // How long a file is that was chosen in a page.
    mediaSrc: ["'self'", 'blob:'],
    workerSrc: ["'self'", 'blob:'],
    objectSrc: ["'none'"],
    baseUri: ["'none'"],
    frameAncestors: ["'none'"],
    formAction: ["'self'"],
  },
};

const MAX_REQUEST_MS = 3600_000;
const MAX_CONNECTIONS = 1000;
/**
 * Longer than a client that computes between two requests (a worker, a script) is busy: Node's five seconds would
 * close the connection the moment such a client uses it again.
 */
const KEEP_ALIVE_MS = 65_000;

export async function createApp(config: Config): Promise<NestExpressApplication> {
  // A window that listens would keep a server that was asked to end from ending.
  const options = { logger: serverLog, bodyParser: false, forceCloseConnections: true };
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(config), options);
  let port = config.port;
  app.use(
    helmet({
      contentSecurityPolicy: CONTENT_POLICY,
      crossOriginEmbedderPolicy: true,
      strictTransportSecurity: false,
      referrerPolicy: { policy: 'same-origin' },
    }),
  );
  const { token, beyondLoopback, names } = config;
  const ownPort = () => (port = (app.getHttpServer().address() as { port?: number } | null)?.port ?? port);
  const devOrigins = config.dev ? ['http://localhost:5173', 'http://127.0.0.1:5173'] : [];
  app.use(...gate({ port: ownPort, beyondLoopback, token, names, devOrigins }));
  app.use((request: Request, response: Response, next: NextFunction) => {
    // No id, name or path has such a character; file systems and databases end text there.
    if (/%00|\0/i.test(request.originalUrl))
      return void response
        .status(400)
        .json({ message: 'The address has a character that no address of this server has.' });
    next();
  });
  const uploads = app.get(Uploads);
  app.use('/api/uploads', (request: Request, response: Response) => {
    // The tus server routes by the whole path, which a mounted handler would not see.
    request.url = request.originalUrl;
    void uploads.server.handle(request, response);
  });
  app.useBodyParser('json', { limit: '20mb' });
  app.useGlobalPipes(new ValidationPipe({ whitelist: true, forbidNonWhitelisted: true, transform: true }));
  app.useGlobalFilters(new ErrorFilter());
  serveApiPage(app);
  servePages(app, join(config.root, 'apps/web/dist'));
  app.enableShutdownHooks();
  const server = app.getHttpServer();
  // An upload may take long; a header may not.
  server.requestTimeout = MAX_REQUEST_MS;
  server.headersTimeout = 20_000;
  server.keepAliveTimeout = KEEP_ALIVE_MS;
  server.maxConnections = MAX_CONNECTIONS;
  return app;
}

/** The page of the HTTP interface is made when somebody asks for it: what makes it takes a second to load. */
function serveApiPage(app: NestExpressApplication): void {
  let page: Promise<RequestHandler> | undefined;
  app.use('/api/docs', (request: Request, response: Response, next: NextFunction) => {
    page ??= import('./trust/api-page.js').then(({ apiPage }) => apiPage(app));
    page.then((serve) => serve(request, response, next), next);
  });
}

function servePages(app: NestExpressApplication, folder: string): void {
  if (!existsSync(folder)) return;
  app.use(
    express.static(folder, {
      index: 'index.html',
      setHeaders: (response, path) =>
        response.setHeader('Cache-Control', /assets/.test(path) ? 'max-age=31536000, immutable' : 'no-cache'),
    }),
  );
  app.use((request: Request, response: Response, next: NextFunction) => {
    if (request.method !== 'GET' || request.path.startsWith('/api/') || !request.accepts('html')) return next();
    response.sendFile(join(folder, 'index.html'), { dotfiles: 'allow' });
  });
}
