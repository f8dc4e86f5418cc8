/**
 * TypeScript for the test runner, by swc. Each module binds the globals of its arithmetic once: in the runner's sandbox looking a
 * global up takes longer than what is done with it, which hot loops do once a frame.
 */
import swc from '@swc/jest';

const BOUND =
  'const { Array, Float32Array, Float64Array, Int16Array, Int32Array, Map, Math, Number, Object, Set, Uint8Array } = globalThis;';

export default {
  createTransformer(options) {
    const transformer = swc.createTransformer(options);
    const bound = (result) => ({ ...result, code: `${BOUND} ${result.code}` });
    return {
      ...transformer,
      process: (...args) => bound(transformer.process(...args)),
      processAsync: async (...args) => bound(await transformer.processAsync(...args)),
      getCacheKey: (...args) => `${transformer.getCacheKey(...args)}-bound`,
    };
  },
};
