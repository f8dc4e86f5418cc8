import fc from 'fast-check';
import { SAMPLE_TYPES, sampleBytes } from '@/core/units/sample-encoding';
import { unpack } from '@/formats/samples';
import { PackKernel, UnpackKernel } from './pcm-kernel';

describe.each(SAMPLE_TYPES.flatMap((type) => [false, true].map((isBigEndian) => ({ type, isBigEndian }))))(
  '$type, big-endian: $isBigEndian',
  (encoding) => {
    test('any bytes are unpacked as the reference does, bit for bit; what is not finite is silence, and counted', () => {
      fc.assert(
        fc.property(
          fc.integer({ min: 1, max: 5 }),
          fc.uint8Array({ minLength: 40, maxLength: 400 }),
          (count, bytes) => {
            const frames = Math.floor(bytes.length / (sampleBytes(encoding) * count));
            const reference = Array.from({ length: count }, () => new Float32Array(frames));
            const kernel = new UnpackKernel(encoding, count, Math.max(1, frames));
            kernel.bytes.set(bytes.subarray(0, frames * sampleBytes(encoding) * count));
            expect(kernel.unpack(frames)).toBe(unpack(bytes, frames, encoding, reference));
            kernel.channels.forEach((samples, channel) => {
              expect(new Uint32Array(samples.slice(0, frames).buffer)).toEqual(
                new Uint32Array((reference[channel] as Float32Array).buffer),
              );
            });
          },
        ),
        { numRuns: 60 },
      );
    });
  },
);

describe.each([16, 24] as const)('%i bits', (bits) => {
  const scale = 2 ** (bits - 1);

  test.each([false, true])(
    'samples are rounded to the nearest step and held at full scale (big-endian: %s)',
    (isBigEndian) => {
      const near = fc.double({ min: -1.3, max: 1.3, noNaN: true });
      // Halves of a step, and the codes at full scale.
      const steps = fc.integer({ min: -2 * scale - 3, max: 2 * scale + 3 }).map((half) => half / 2 / scale);
      fc.assert(
        fc.property(
          fc.array(fc.oneof(near, steps), { minLength: 2, maxLength: 60 }),
          fc.constantFrom(1, 0.5, 0.7079457843841379),
          (list, gain) => {
            const channels = [Float32Array.from(list), Float32Array.from(list, (x) => -x)];
            const frames = list.length;
            const bytes = new Uint8Array((bits / 8) * 2 * frames);
            const kernel = new PackKernel({ bits, channels: 2, isBigEndian, maxFrames: frames + 3 });
            const clipped = kernel.pack(channels, frames, gain * scale, bytes);
            const back = [new Float32Array(frames), new Float32Array(frames)];
            unpack(bytes, frames, { type: `s${bits}`, isBigEndian }, back);
            let expectedClipped = 0;
            channels.forEach((samples, channel) => {
              samples.forEach((x, n) => {
                const step = Math.round(x * gain * scale);
                if (step > scale || step < -scale) expectedClipped++;
                const held = Math.min(scale - 1, Math.max(-scale, step));
                expect((back[channel]?.[n] ?? Number.NaN) * scale).toBe(held + 0);
              });
            });
            expect(clipped).toBe(expectedClipped);
          },
        ),
        { numRuns: 200 },
      );
    },
  );
});
