import pino from 'pino';

/**
 * What the server has to say of its work, as lines of JSON on its standard error: failures, and with OPSIMETER_LOG=info each task
 * that ends. Names of files and of errors are in it; secrets, addresses of receivers and what files hold are not.
 */
export const log = pino(
  { level: process.env.OPSIMETER_LOG ?? 'warn', base: null },
  pino.destination({ dest: 2, sync: true }),
);
