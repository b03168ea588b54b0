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
  const document = SwaggerModule.createDocument(app, options, {
    operationIdFactory: (controller, method) =>
      `${controller.replace('Controller', '').replace(/^./, (first) => first.toLowerCase())}${method.replace(/^./, (first) => first.toUpperCase())}`,
  });
  return withHeldParameters(document);
}

/** What the guard reads of a path is a parameter as well, though no route takes it. */
function withHeldParameters(document: OpenAPIObject): OpenAPIObject {
  const paths = Object.entries(document.paths).map(([path, item]) => {
    const named = [...path.matchAll(/\{(\w+)\}/g)].map(([, name = '']) => name);
    const operations = Object.entries(item as Record<string, OperationObject>).map(([method, operation]) => {
      const known = (operation.parameters ?? []) as readonly { readonly name: string }[];
      const missing = named
        .filter((name) => !known.some((each) => each.name === name))
        .map((name) => ({ name, in: 'path', required: true, schema: { type: 'string' } }));
      return [method, { ...operation, parameters: [...missing, ...known] }] as const;
    });
    return [path, Object.fromEntries(operations)] as const;
  });
  return { ...document, paths: Object.fromEntries(paths) as OpenAPIObject['paths'] };
}

interface OperationObject {
  readonly parameters?: readonly unknown[];
}
