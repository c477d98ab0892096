import type { INestApplication } from '@nestjs/common';
import { DocumentBuilder, SwaggerModule, type OpenAPIObject } from '@nestjs/swagger';
import { getMetadataStorage } from 'class-validator';
import { targetConstructorToSchema } from 'class-validator-jsonschema';
import type { ISchemaConverters } from 'class-validator-jsonschema/build/defaultConverters.js';
import express, { type Router } from 'express';
import { absolutePath } from 'swagger-ui-dist';

type Path = OpenAPIObject['paths'][string];
type Parameter = NonNullable<Path['parameters']>[number];

/** What comes behind a question mark: Nest's description has bodies and paths only. */
const QUERIES: Readonly<Record<string, Parameter>> = {
  '/api/footage/{id}/frame': {
    name: 'sample',
    in: 'query',
    required: true,
    description: 'A sample as JSON text (docs/api.md).',
    schema: { type: 'string', maxLength: 14_000 },
  },
  '/api/projects/{id}/bundle': {
    name: 'media',
    in: 'query',
    description: 'Whether the media themselves go in, or what they are known again by.',
    schema: { type: 'string', enum: ['yes', 'no'] },
  },
};

/** The HTTP interface as OpenAPI, made of the controllers and of what their inputs are checked by. */
function describeApi(app: INestApplication): OpenAPIObject {
  const info = new DocumentBuilder()
    .setTitle('Idle Bend')
    .setDescription('The HTTP interface. What a machine cannot say of it is in docs/api.md.')
    .setVersion('1');
  const document = SwaggerModule.createDocument(app, info.build());
  const schemas = document.components?.schemas ?? {};
  for (const input of checkedInputs())
    if (schemas[input.name]) schemas[input.name] = targetConstructorToSchema(input, { additionalConverters }) as object;
  for (const [path, parameter] of Object.entries(QUERIES)) document.paths[path]?.get?.parameters?.push(parameter);
  return document;
}

/** A list of values is told as it is, of one type or of several. */
const additionalConverters: ISchemaConverters = { isIn: ({ constraints }) => ({ enum: constraints[0] }) };

/** Every class that has decorators of class-validator. */
function checkedInputs(): Set<new () => object> {
  const { validationMetadatas } = getMetadataStorage() as unknown as {
    readonly validationMetadatas: ReadonlyMap<unknown, readonly { readonly target: unknown }[]>;
  };
  const targets = [...validationMetadatas.values()].flat().map(({ target }) => target);
  return new Set(targets.filter((target) => typeof target === 'function') as (new () => object)[]);
}

const PAGE = `<!doctype html>
<html lang="en">
  <head>
    <meta charset="utf-8" />
    <title>Idle Bend · HTTP interface</title>
    <link rel="stylesheet" href="/api/docs/ui/swagger-ui.css" />
  </head>
  <body>
    <div id="page"></div>
    <script src="/api/docs/ui/swagger-ui-bundle.js"></script>
    <script src="/api/docs/start.js"></script>
  </body>
</html>
`;
const START = "SwaggerUIBundle({ url: '/api/docs/json', dom_id: '#page' });\n";

/** The page of the HTTP interface, of the server's own files alone: `/api/docs`; as a document: `/api/docs/json`. */
export function apiPage(app: INestApplication): Router {
  const document = describeApi(app);
  const router = express.Router();
  router.get('/', (_, response) => void response.type('html').send(PAGE));
  router.get('/start.js', (_, response) => void response.type('js').send(START));
  router.get('/json', (_, response) => void response.json(document));
  router.use('/ui', express.static(absolutePath(), { index: false }));
  return router;
}
