import 'reflect-metadata';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { SwaggerModule } from '@nestjs/swagger';
import cookieParser from 'cookie-parser';
import express from 'express';
import type { NextFunction, Request, Response } from 'express';
import helmet from 'helmet';
import { Logger } from 'nestjs-pino';
import { AppModule } from './app.module';
import { migrate } from './database/options';
import { refuseForeign } from './foreign';
import { LIMITS } from './limits';
import { describeApi } from './openapi';
import { refuseUnreadable } from './problems';
import { readSettings } from './settings';

async function main(): Promise<void> {
  const settings = readSettings(process.env);
  await migrate(settings.database);
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(settings), {
    bufferLogs: true,
    bodyParser: false,
    forceCloseConnections: true,
  });
  app.useLogger(app.get(Logger));
  app.use('/api', (_request: Request, response: Response, next: NextFunction) => {
    response.set('cache-control', 'no-store');
    next();
  });
  app.use(refuseForeign(settings.names));
  app.use(helmet({ contentSecurityPolicy: { directives: POLICY } }));
  app.use(cookieParser());
  app.use(express.json({ limit: LIMITS.requestBytes.value }), refuseUnreadable);
  app.setGlobalPrefix('api');
  app.enableShutdownHooks();
  app.getHttpAdapter().getInstance().disable('x-powered-by');
  SwaggerModule.setup('api/docs', app, () => describeApi(app), { jsonDocumentUrl: 'api/openapi.json' });
  if (settings.webFolder !== undefined) servePages(app, settings.webFolder);
  // A reader that is busy for some seconds would send its next request on a connection the server is just closing.
  app.getHttpServer().keepAliveTimeout = KEEP_ALIVE;
  await app.listen(settings.port, settings.host);
  process.send?.({ listening: settings.port });
}

/** So long a connection is kept for a reader's next request, in ms. */
const KEEP_ALIVE = 65_000;

/** No inline script; the grammar of SQL texts is compiled to WebAssembly. Styles may be inline, which the editors need for positions and sizes. */
const POLICY = {
  'default-src': ["'self'"],
  'script-src': ["'self'", "'wasm-unsafe-eval'"],
  'style-src': ["'self'", "'unsafe-inline'"],
  'img-src': ["'self'", 'data:'],
  'font-src': ["'self'", 'data:'],
  'connect-src': ["'self'"],
  'object-src': ["'none'"],
  'frame-ancestors': ["'none'"],
  'upgrade-insecure-requests': null,
};

/** Built pages; every address of the app gives the page, which finds its own way. */
function servePages(app: NestExpressApplication, folder: string): void {
  const page = join(folder, 'index.html');
  if (!existsSync(page)) throw new Error(`The built pages are missing in ${folder}; npm start builds them.`);
  const web = app.getHttpAdapter().getInstance();
  web.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '365d' }));
  web.use(express.static(folder, { index: false }));
  web.get(/^\/(?!api\/)/, (_request: Request, response: Response) => {
    response.set('cache-control', 'no-cache').sendFile(page);
  });
}

// Nothing that goes wrong in one piece of work may end the others: what nobody caught is logged, and its work never answers.
for (const event of ['uncaughtException', 'unhandledRejection'] as const)
  process.on(event, (error: unknown) => {
    process.stderr.write(`${event}: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
  });

main().catch((error: unknown) => {
  process.stderr.write(`Cendra could not start: ${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
});
