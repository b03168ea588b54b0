/** The project's folder: every script is started there by bootstrap.mjs, and the tests run there. */
export const root = process.cwd();
