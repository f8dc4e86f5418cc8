import fc from 'fast-check';
import { decodeArrays, encodeArrays } from './array-bundle';

test('what is bundled comes back, NaN and infinities included', () => {
  fc.assert(
    fc.property(fc.array(fc.float()), fc.array(fc.double()), fc.string(), (floats, doubles, name) => {
      const bundle = {
        meta: { name },
        arrays: { floats: Float32Array.from(floats), doubles: Float64Array.from(doubles), none: new Float32Array(0) },
      };
      const bytes = encodeArrays(bundle);
      expect(decodeArrays(bytes.buffer as ArrayBuffer)).toEqual(bundle);
    }),
  );
});
