/** Serves the app, as it was built. */
const { serve } = await import('../dist/serve.mjs');
await serve();
