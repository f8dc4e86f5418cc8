/** A short film for the demo: a night sky that drifts, with time code and eight mono tracks (a stereo mix, and 5.1), made by FFmpeg. */
import { createReadStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { runFfmpeg } from '@/codecs/ffmpeg';
import { createWavWriter } from '@/formats/wav/writer';
import { FileSink } from '@/workers/node/file-bytes';
import { music } from './synth';

const SECONDS = 20;
const RATE_HZ = 48_000;
const TRACKS = 8;
const TIMEOUT_MS = 120_000;
export const DEMO_FILM = {
  title: 'Season trailer',
  fileName: 'season_trailer.mov',
  tracks: [
    [1, 2],
    [3, 4, 5, 6, 7, 8],
  ],
  specId: 'ebu-r128',
};

/** A sky from violet to petrol, a planet that crosses it, and a horizon. */
const PICTURE = [
  `gradients=s=640x360:r=25:d=${SECONDS}:c0=0x221D33:c1=0x0F5C66:x0=0:y0=0:x1=0:y1=360:speed=0.00001[sky]`,
  `color=c=0xCFC6E2:s=28x28:r=25:d=${SECONDS},format=rgba,geq=r='207':g='198':b='226':a='255*lte(hypot(X-14,Y-14),13)'[planet]`,
  "[sky][planet]overlay=x='20+28*t':y='150-100*sin(PI*t/20)',drawbox=y=318:h=42:color=0x14101F:t=fill[picture]",
].join(';');

/** Makes the film, hands its bytes on, and leaves nothing behind. Throws `ffmpeg-missing` where there is no FFmpeg. */
export async function withDemoFilm<T>(use: (bytes: AsyncIterable<Uint8Array>) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'opsimeter-'));
  try {
    const [sound, film] = [join(folder, 'sound.wav'), join(folder, DEMO_FILM.fileName)];
    await writeSound(sound);
    const tracks = Array.from({ length: TRACKS }, (_, i) => i);
    const split = tracks.map((i) => `[0:a]pan=mono|c0=c${i}[track${i}]`).join(';');
    const args = [
      ...['-nostdin', '-v', 'error', '-i', sound, '-filter_complex', `${PICTURE};${split}`, '-map', '[picture]'],
      ...tracks.flatMap((i) => ['-map', `[track${i}]`]),
      ...['-c:v', 'mpeg4', '-q:v', '5', '-c:a', 'pcm_s24le', '-timecode', '10:00:00:00', '-t', String(SECONDS), film],
    ];
    await runFfmpeg('ffmpeg', args, DEMO_FILM.fileName, { timeoutMs: TIMEOUT_MS, onOutput: () => undefined });
    return await use(createReadStream(film));
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function writeSound(path: string): Promise<void> {
  const sections = [
    { startSeconds: 0, level: 0.4, drums: 0.2 },
    { startSeconds: 9, level: 0.9, drums: 0.9 },
  ];
  const [left, right] = music(SECONDS, RATE_HZ, sections, 64, 0.9) as [Float32Array, Float32Array];
  const turned = (samples: Float32Array, gain: number) => samples.map((x) => gain * x);
  const middle = left.map((x, i) => 0.35 * (x + (right[i] ?? 0)));
  const surround = [
    turned(left, 0.7),
    turned(right, 0.7),
    middle,
    turned(middle, 0.4),
    turned(right, 0.4),
    turned(left, 0.4),
  ];
  const channels = [left, right, ...surround];
  const sink = await FileSink.create(path);
  const layout = { sampleRateHz: RATE_HZ, channels: channels.length, channelMask: 0, frames: left.length };
  const writer = await createWavWriter(sink, layout);
  await writer.write(channels, left.length, 1);
  await writer.finish();
  await sink.finish();
}
