/** Turns the server's OpenAPI document into typed endpoints and hooks. */
module.exports = {
  schemaFile: '../server/openapi.json',
  apiFile: './src/api/base.ts',
  apiImport: 'baseApi',
  outputFile: './src/api/client.gen.ts',
  exportName: 'api',
  hooks: true,
  tag: true,
};
