/** FFmpeg's loudnorm in two passes, as whoever uses it properly does, to a loudness in LUFS and with a codec's options. */
import { spawnSync } from 'node:child_process';

export function loudnorm(path, out, targetLufs, codec) {
  const asked = `loudnorm=I=${targetLufs}:TP=-1:LRA=50`;
  const said = ffmpeg('-i', path, '-af', `${asked}:print_format=json`, '-f', 'null', '-');
  const first = JSON.parse(said.slice(said.lastIndexOf('{'), said.lastIndexOf('}') + 1));
  const known = `measured_I=${first.input_i}:measured_TP=${first.input_tp}:measured_LRA=${first.input_lra}:measured_thresh=${first.input_thresh}:offset=${first.target_offset}`;
  ffmpeg('-y', '-i', path, '-af', `${asked}:${known}:linear=true`, '-ar', '48000', ...codec, out);
}

function ffmpeg(...args) {
  const { status, stderr } = spawnSync('ffmpeg', ['-hide_banner', '-nostdin', '-nostats', ...args], {
    encoding: 'utf8',
  });
  if (status !== 0) throw new Error(stderr);
  return stderr;
}
