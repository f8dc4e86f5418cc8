/** `opsimeter live`: lines that FFmpeg sends or that are played in real time, read as the file that is kept of them is. */
import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { createSocket } from 'node:dgram';
import { once } from 'node:events';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createServer as createHttpServer } from 'node:http';
import { createServer, type Server } from 'node:net';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { ffmpegLoudness, opsimeter } from '../fixtures/command';
import { decodedByFfmpeg, ffmpeg, firstDifference } from '../fixtures/ffmpeg';
import { musicLike } from '../fixtures/material';
import { wavOf } from '../fixtures/wav';

const RATE = 44_100;
const SECONDS = 8;
const KILLED_AT_ONCE = 5;

let folder: string;
const at = (name: string) => join(folder, name);
const children: ChildProcess[] = [];
const servers: Server[] = [];

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-live-'));
  const swelling = musicLike().map((samples) =>
    samples.slice(0, SECONDS * RATE).map((x, n) => x * (n < 4 * RATE ? 0.2 : 0.8)),
  );
  writeFileSync(at('music.wav'), wavOf(swelling, { sampleRateHz: RATE }));
});
afterAll(() => {
  for (const child of children) child.kill('SIGKILL');
  for (const server of servers) server.close();
  rmSync(folder, { recursive: true, force: true });
});

interface LiveEnd {
  frames: number;
  seconds: number;
  lostFrames: number;
  clockSeconds: number;
  readings: Record<string, number | null>;
  lost?: { happened: string };
  recording?: { path: string; frames: number; clippedSamples: number; failure?: { happened: string } };
}

/** What was printed, by kind: the line, its seconds, its end. */
function parsed(out: string) {
  const lines = out
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, unknown>);
  return {
    line: lines[0] as { layout: string; sampleRateHz: number },
    seconds: lines.filter((line) => 'second' in line) as { second: number; integratedLufs: number }[],
    gaps: lines.flatMap(({ gap }) => (gap === undefined ? [] : [gap as { startFrame: number; frames: number }])),
    end: lines.at(-1) as unknown as LiveEnd,
  };
}

/** Starts the command, without waiting for its end. */
function live(...args: string[]) {
  const child = spawn(process.execPath, ['bin/opsimeter.mjs', 'live', ...args], {
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  children.push(child);
  const said = { out: '', err: '' };
  child.stdout.setEncoding('utf8').on('data', (text: string) => {
    said.out += text;
  });
  child.stderr.setEncoding('utf8').on('data', (text: string) => {
    said.err += text;
  });
  const ended = once(child, 'close').then(([code]) => code as number | null);
  return { child, said, ended };
}

/** What the command reads of a recording, beside what it read of the line, and what FFmpeg reads. */
function expectAlike({ readings, recording }: LiveEnd): void {
  const path = recording?.path ?? '';
  const [{ readings: file }] = JSON.parse(opsimeter('measure', path, '--json').out) as [LiveEnd];
  for (const key of ['integratedLufs', 'loudnessRangeLu', 'maxMomentaryLufs', 'maxShortTermLufs', 'truePeakDbtp']) {
    expect([key, Math.abs((readings[key] as number) - (file[key] as number)) < 0.005]).toEqual([key, true]);
  }
  const other = ffmpegLoudness(path);
  expect(Math.abs((readings.integratedLufs as number) - other.integratedLufs)).toBeLessThan(0.01);
  expect(Math.abs((readings.truePeakDbtp as number) - other.truePeakDbtp)).toBeLessThan(0.3);
}

/** A port that nobody listens on. */
async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as { port: number };
  server.close();
  await once(server, 'close');
  return port;
}

function sendByFfmpeg(...args: string[]): void {
  children.push(spawn('ffmpeg', ['-nostdin', '-v', 'error', '-re', '-i', at('music.wav'), ...args]));
}

test('a file is played in real time, read each second, and kept as it is', async () => {
  const began = performance.now();
  const { out, code, err } = opsimeter('live', at('music.wav'), '--record', at('kept.wav'), '--float', '--json');
  expect({ code, err }).toEqual({ code: 0, err: '' });
  expect(performance.now() - began).toBeGreaterThan((SECONDS - 1.5) * 1000);
  const { line, seconds, end } = parsed(out);
  expect(line).toMatchObject({ layout: 'stereo', sampleRateHz: RATE });
  expect(seconds.map(({ second }) => second)).toEqual(Array.from({ length: SECONDS }, (_, n) => n + 1));
  expect(end.frames).toBe(SECONDS * RATE);
  expect(end.recording).toMatchObject({ frames: SECONDS * RATE, clippedSamples: 0 });
  expect(firstDifference(decodedByFfmpeg(at('kept.wav'), 2), decodedByFfmpeg(at('music.wav'), 2))).toBeUndefined();
  expectAlike(end);
  // What it read on its way is what the file reads so far.
  ffmpeg('-v', 'error', '-i', at('music.wav'), '-t', '5', '-c', 'copy', at('five.wav'));
  expect(Math.abs((seconds[4]?.integratedLufs ?? 0) - ffmpegLoudness(at('five.wav')).integratedLufs)).toBeLessThan(
    0.01,
  );
});

test('streams of FFmpeg are read as the files that are kept of them: HTTP, SRT, and RTP without a description', async () => {
  const [httpPort, rtpPort, srtPort] = [await freePort(), await freePort(), await freePort()];
  // A transport stream of MPEG-1 Layer II, as broadcast contribution has it.
  sendByFfmpeg('-c:a', 'mp2', '-b:a', '384k', '-f', 'mpegts', `srt://127.0.0.1:${srtPort}?mode=listener`);
  sendByFfmpeg('-c:a', 'flac', '-f', 'ogg', '-listen', '1', `http://127.0.0.1:${httpPort}`);
  const rtp = live(`rtp://127.0.0.1:${rtpPort}`, '--seconds', '4', '--record', at('rtp.wav'), '--json');
  // Payload type 10 is 16 bits, 44.1 kHz, stereo (RFC 3551).
  sendByFfmpeg('-c:a', 'pcm_s16be', '-payload_type', '10', '-f', 'rtp', `rtp://127.0.0.1:${rtpPort}`);
  await wait(500);
  const srt = live(`srt://127.0.0.1:${srtPort}`, '--seconds', '3', '--record', at('srt.wav'), '--json');
  const http = live(`http://127.0.0.1:${httpPort}`, '--record', at('http.wav'), '--json');
  expect({ code: await rtp.ended, err: rtp.said.err }).toEqual({ code: 0, err: '' });
  const ofRtp = parsed(rtp.said.out).end;
  expect(ofRtp.frames).toBe(4 * RATE);
  expectAlike(ofRtp);
  expect({ code: await srt.ended, err: srt.said.err }).toEqual({ code: 0, err: '' });
  const ofSrt = parsed(srt.said.out).end;
  expect([ofSrt.frames, ofSrt.lostFrames]).toEqual([3 * RATE, 0]);
  expectAlike(ofSrt);
  expect({ code: await http.ended, err: http.said.err }).toEqual({ code: 0, err: '' });
  const ofHttp = parsed(http.said.out).end;
  expect(ofHttp.frames).toBe(SECONDS * RATE);
  expect(firstDifference(decodedByFfmpeg(at('http.wav'), 2), decodedByFfmpeg(at('music.wav'), 2))).toBeUndefined();
  expectAlike(ofHttp);
});

test('a stream in pieces (HLS) is read as it is, though its first packets have the times of each other', async () => {
  mkdirSync(at('hls'));
  const pieces = ['-f', 'hls', '-hls_time', '2', '-hls_list_size', '0'];
  ffmpeg('-v', 'error', '-i', at('music.wav'), '-c:a', 'aac', ...pieces, at('hls/live.m3u8'));
  // A list that names a file of this machine is not followed.
  writeFileSync(
    at('hls/local.m3u8'),
    `#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\nfile://${at('music.wav')}\n#EXT-X-ENDLIST\n`,
  );
  const server = createHttpServer(({ url = '' }, response) => {
    response.end(readFileSync(at(`hls/${basename(url)}`)));
  }).listen(0, '127.0.0.1');
  servers.push(server);
  await once(server, 'listening');
  const address = `http://127.0.0.1:${(server.address() as { port: number }).port}`;
  const whole = live(`${address}/live.m3u8`, '--record', at('hls.wav'), '--float', '--json');
  const local = live(`${address}/local.m3u8`, '--json');
  expect({ code: await whole.ended, err: whole.said.err }).toEqual({ code: 0, err: '' });
  const { end, gaps } = parsed(whole.said.out);
  expect(gaps).toEqual([]);
  expectAlike(end);
  const decoded = decodedByFfmpeg(at('hls/live.m3u8'), 2);
  expect(end.frames).toBe(decoded[0]?.length);
  expect(firstDifference(decodedByFfmpeg(at('hls.wav'), 2), decoded)).toBeUndefined();
  expect(await local.ended).toBe(2);
  expect(local.said.err).toContain('could not be opened');
});

test('packets that never come are told with place and length, and what comes after them stands where it belongs', async () => {
  const [fromPort, toPort] = [await freePort(), await freePort()];
  const sender = createSocket('udp4');
  const listener = createSocket('udp4');
  const begins: number[] = [];
  let [frames, droppedAt, dropped] = [0, 0, 0];
  listener.on('message', (packet) => {
    // Behind the head of RTP of 12 bytes, frames of two samples of 16 bits.
    const held = (packet.length - 12) / 4;
    const isDropped = begins.length >= 200 && begins.length < 212;
    if (begins.length === 200) droppedAt = frames;
    if (isDropped) dropped += held;
    else sender.send(packet, toPort, '127.0.0.1');
    begins.push(frames);
    frames += held;
  });
  await new Promise<void>((resolve) => listener.bind(fromPort, '127.0.0.1', resolve));
  const { said, ended } = live(`rtp://127.0.0.1:${toPort}`, '--seconds', '4', '--record', at('gap.wav'), '--json');
  const isBound = () =>
    readFileSync('/proc/net/udp', 'utf8').includes(`:${toPort.toString(16).toUpperCase().padStart(4, '0')} `);
  while (!isBound()) await wait(20);
  sendByFfmpeg('-c:a', 'pcm_s16be', '-payload_type', '10', '-f', 'rtp', `rtp://127.0.0.1:${fromPort}`);
  expect({ code: await ended, err: said.err }).toEqual({ code: 0, err: '' });
  for (const socket of [sender, listener]) socket.close();
  expect(dropped).toBeGreaterThan(1000);
  const { end, gaps } = parsed(said.out);
  expect(gaps).toEqual([{ startFrame: expect.any(Number), frames: dropped }]);
  // FFmpeg takes from the first packets what kind of sound it is: the line begins with one of those behind.
  const first = droppedAt - (gaps[0]?.startFrame ?? 0);
  expect(begins.slice(0, 8)).toContain(first);
  expect(end.lostFrames).toBe(dropped);
  expect(Math.abs(end.clockSeconds - 4)).toBeLessThan(1);

  ffmpeg('-v', 'error', '-i', at('music.wav'), '-c:a', 'pcm_s16le', at('sent.wav'));
  const sent = decodedByFfmpeg(at('sent.wav'), 2).map((samples) => {
    const some = samples.slice(first, first + end.frames);
    return some.fill(0, droppedAt - first, droppedAt - first + dropped);
  });
  expect(firstDifference(decodedByFfmpeg(at('gap.wav'), 2), sent)).toBeUndefined();
});

test('what SRT loses far away is sent again in time, unless the address wants less latency', async () => {
  const heardOver = async (query: string) => {
    const [fromPort, toPort] = [await freePort(), await freePort()];
    sendByFfmpeg('-c:a', 'mp2', '-b:a', '384k', '-f', 'mpegts', `srt://127.0.0.1:${fromPort}?mode=listener`);
    const far = await farConnection(fromPort, toPort);
    await wait(500);
    const { said, ended } = live(`srt://127.0.0.1:${toPort}${query}`, '--seconds', '4', '--json');
    expect({ code: await ended, err: said.err }).toEqual({ code: 0, err: '' });
    expect(far.close()).toBeGreaterThan(3);
    return parsed(said.out).end;
  };
  const [own, short] = await Promise.all([heardOver(''), heardOver('?rcvlatency=120000')]);
  expect([own.frames, own.lostFrames]).toEqual([4 * RATE, 0]);
  expect(short.frames).toBe(4 * RATE);
  expect(short.lostFrames).toBeGreaterThan(1000);
});

/** Passes packets of SRT on with 80 ms either way, and loses each 25th that carries data. `close` says how many. */
async function farConnection(fromPort: number, toPort: number): Promise<{ close: () => number }> {
  const ONE_WAY_MS = 80;
  const [sender, receiver] = [createSocket('udp4'), createSocket('udp4')];
  let [passed, lost, receiverPort] = [0, 0, 0];
  receiver.on('message', (packet, { port }) => {
    receiverPort = port;
    setTimeout(() => sender.send(packet, fromPort, '127.0.0.1'), ONE_WAY_MS);
  });
  sender.on('message', (packet) => {
    // The first bit of a packet tells control from data (Internet-Draft draft-sharabayko-srt, section 3, from memory).
    if (((packet[0] ?? 0) & 0x80) === 0 && ++passed % 25 === 0) lost++;
    else setTimeout(() => receiver.send(packet, receiverPort, '127.0.0.1'), ONE_WAY_MS);
  });
  await new Promise<void>((resolve) => receiver.bind(toPort, '127.0.0.1', resolve));
  return {
    close: () => {
      for (const socket of [sender, receiver]) socket.removeAllListeners('message');
      setTimeout(() => {
        for (const socket of [sender, receiver]) socket.close();
      }, 2 * ONE_WAY_MS);
      return lost;
    },
  };
}

test('ended by hand it is whole to the last frame; killed, to the last second', async () => {
  const looped = at('long.wav');
  ffmpeg('-v', 'error', '-stream_loop', '4', '-i', at('music.wav'), '-c', 'copy', looped);
  const byHand = live(looped, '--record', at('by-hand.wav'), '--json');
  const kept: { path: string; heardSeconds: number }[] = [];
  // So many at once leave a machine of two processors real time.
  for (let batch = 0; batch < 20; batch += KILLED_AT_ONCE) {
    const killed = Array.from({ length: KILLED_AT_ONCE }, async (_, n) => {
      const path = at(`killed-${batch + n}.wav`);
      const { child, said, ended } = live(looped, '--record', path, '--json');
      while (!said.out.includes('"second":2') && child.exitCode === null) await wait(20);
      await wait(500 + 77 * (batch + n));
      child.kill('SIGKILL');
      await ended;
      return { path, heardSeconds: said.out.match(/"second":/g)?.length ?? 0 };
    });
    kept.push(...(await Promise.all(killed)));
  }
  for (const { path, heardSeconds } of kept) {
    const info = spawnSync('soxi', ['-s', path], { encoding: 'utf8' });
    expect(info.stderr).toBe('');
    expect(heardSeconds).toBeGreaterThanOrEqual(2);
    expect(Number(info.stdout)).toBeGreaterThanOrEqual((heardSeconds - 1) * RATE);
  }
  expect(opsimeter('measure', ...kept.map(({ path }) => path)).code).toBe(0);
  byHand.child.kill('SIGINT');
  expect(await byHand.ended).toBe(0);
  const { end } = parsed(byHand.said.out);
  expect(end.recording?.frames).toBe(end.frames);
  expect(statSync(at('by-hand.wav')).size).toBe(80 + 6 * end.frames);
});

test('where the disk is full the recording ends with what there is, and the measuring goes on', () => {
  const line = `ulimit -f 1000; exec "${process.execPath}" bin/opsimeter.mjs live "$@"`;
  const { status, stdout, stderr } = spawnSync(
    'bash',
    ['-c', line, 'live', at('music.wav'), '--record', at('full.wav'), '--json'],
    { encoding: 'utf8', env: { ...process.env, NODE_OPTIONS: '' } },
  );
  const { end, seconds } = parsed(stdout);
  expect({ status, heard: seconds.length }).toEqual({ status: 2, heard: SECONDS });
  expect(stderr).toContain('full.wav could not be written (it is larger than this disk or user may hold)');
  const { frames = 0 } = end.recording ?? {};
  // 1000 KiB, less what had not been committed.
  expect(frames).toBeGreaterThan((1_024_000 - 0.6 * 6 * RATE) / 6);
  const info = spawnSync('soxi', ['-s', at('full.wav')], { encoding: 'utf8' });
  expect(Number(info.stdout)).toBe(frames);
});

test('a line that is not there, that is no line, or that breaks off is told as what it is', async () => {
  const port = await freePort();
  const notThere = opsimeter('live', `http://127.0.0.1:${port}`);
  expect({ code: notThere.code, err: notThere.err }).toEqual({
    code: 2,
    err: expect.stringMatching(/could not be opened: .*(refused|I\/O).*/i),
  });
  writeFileSync(at('notes.wav'), 'not sound '.repeat(50));
  expect(opsimeter('live', at('notes.wav'))).toMatchObject({
    code: 2,
    err: expect.stringContaining('could not be opened'),
  });
  expect(opsimeter('live', at('none.wav'))).toMatchObject({ code: 2, err: expect.stringContaining('no such file') });
  // What is no line is no address of one: nothing else of this machine is read through it.
  expect(opsimeter('live', `concat:${at('music.wav')}`)).toMatchObject({ code: 2 });
  writeFileSync(at('kept-before.wav'), 'mine');
  const occupied = opsimeter('live', at('music.wav'), '--seconds', '1', '--record', at('kept-before.wav'));
  expect(occupied).toMatchObject({ code: 2, err: expect.stringContaining('already exists') });
  expect(existsSync(at('kept-before.wav'))).toBe(true);

  // A server that goes away in the middle.
  const bytes = wavOf(musicLike(), { sampleRateHz: RATE });
  const server = createServer((socket) => {
    socket.on('error', () => undefined);
    socket.once('data', () => {
      socket.write(`HTTP/1.1 200 OK\r\nContent-Type: audio/wav\r\nContent-Length: ${bytes.length}\r\n\r\n`);
      socket.end(bytes.subarray(0, 3 * 6 * RATE));
    });
  }).listen(0, '127.0.0.1');
  await once(server, 'listening');
  servers.push(server);
  const address = `http://127.0.0.1:${(server.address() as { port: number }).port}/line.wav`;
  const broken = live(address, '--record', at('broken.wav'), '--json');
  expect(await broken.ended).toBe(2);
  const { end } = parsed(broken.said.out);
  expect(broken.said.err).toContain('was lost');
  expect(end.frames / RATE).toBeGreaterThan(2);
  expect(end.recording?.frames).toBe(end.frames);
});
