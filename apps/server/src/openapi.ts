import type { INestApplication } from '@nestjs/common';
import type { OpenAPIObject } from '@nestjs/swagger';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';

/** The description the web's client is generated from. */
export function describeApi(app: INestApplication): OpenAPIObject {
  const options = new DocumentBuilder()
    .setTitle('Cendra')
    .setDescription('Datasets behind reports: sources, datasets, runs and results.')
    .setVersion('1')
    .addCookieAuth('cendra_session')
    .build();
  return SwaggerModule.createDocument(app, options, {
    operationIdFactory: (controller, method) =>
      `${controller.replace('Controller', '').replace(/^./, (first) => first.toLowerCase())}${method.replace(/^./, (first) => first.toUpperCase())}`,
  });
}
