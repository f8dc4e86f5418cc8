/** `opsimeter verify`: whether a file is still the certified one, and still measures the same. */
import { readFileSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Certificate, certificateSchema } from '@/core/delivery/certificate';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS } from '@/core/file-formats/file-formats';
import { READING_NAMES } from '@/core/loudness/reading-names';
import type { Readings } from '@/core/loudness/readings';
import { formatLevel } from '@/core/units/format';
import { hashFile } from '@/workers/node/hash-file';
import { hashSamples, joinChannels } from '@/workers/node/pcm-file';
import { EXIT, json, type Output } from './commands';
import { type MeasuringOptions, measureAudio, withAudio } from './measuring';
import { verifyCommandMessages as messages } from './messages';

/** Readings are kept in full: what reads otherwise by more than this is another sound, or another meter. */
const SAME_WITHIN = 0.005;

const COMPARED = [
  'integratedLufs',
  'loudnessRangeLu',
  'maxMomentaryLufs',
  'maxShortTermLufs',
  'truePeakDbtp',
  'samplePeakDbfs',
  'rmsDbfs',
] as const;

export async function verifyCommand(
  certificatePath: string,
  files: readonly [string, ...string[]],
  asJson: boolean,
  output: Output,
  options: MeasuringOptions,
): Promise<number> {
  const certificate = readCertificate(certificatePath);
  if (files.length !== certificate.files.length) {
    const count = certificate.files.length;
    const which = count === 1 ? messages.ofOneFile : messages.ofFiles(count);
    throw new AppError('usage', { reason: `${certificatePath} is ${which}` });
  }
  const hashes = await Promise.all(files.map(hashFile));
  const isThatFile = hashes.every((sha256, i) => sha256 === certificate.files[i]?.sha256);
  const { readings, audioSha256 } = await readAgain(files, certificate, options);
  const isThatSound = certificate.audioSha256 === null ? isThatFile : audioSha256 === certificate.audioSha256;
  const differing = COMPARED.filter((key) => !isSame(certificate.readings[key], readings[key]));
  const holds = isThatFile && differing.length === 0;
  if (asJson) {
    const differences = differing.map((key) => ({
      name: READING_NAMES[key].name,
      certified: certificate.readings[key],
      read: readings[key],
    }));
    output.print(json({ holds, isThatFile, isThatSound, differences, sha256: hashes, audioSha256 }));
    return holds ? EXIT.ok : EXIT.misses;
  }
  output.print(`${files.join(', ')}`);
  output.print(
    isThatFile ? messages.sameBytes : messages.otherBytes(isThatSound ? messages.sameAudio : messages.otherAudio),
  );
  const level = (key: (typeof COMPARED)[number], from: Pick<Readings, (typeof COMPARED)[number]>) =>
    formatLevel(from[key], READING_NAMES[key].unit, 2);
  for (const key of differing) {
    const { name } = READING_NAMES[key];
    output.print(messages.differs(name, level(key, readings), level(key, certificate.readings)));
  }
  if (differing.length === 0) {
    const levels = COMPARED.map((key) => `${READING_NAMES[key].name} ${level(key, readings)}`);
    output.print(messages.measuresTheSame(levels.join(', ')));
  }
  const { engineVersion } = readings;
  if (engineVersion !== certificate.readings.engineVersion) {
    output.print(messages.otherEngine(certificate.readings.engineVersion, engineVersion));
  }
  const { spec, inside, acceptedReason } = certificate;
  output.print((inside ? messages.inside : messages.outside)(spec.name, spec.version, certificate.writtenAt));
  if (acceptedReason) output.print(messages.accepted(acceptedReason));
  return holds ? EXIT.ok : EXIT.misses;
}

function isSame(certified: number | null, read: number | null): boolean {
  if (certified === null || read === null) return certified === read;
  return Math.abs(certified - read) <= SAME_WITHIN;
}

async function readAgain(
  files: readonly [string, ...string[]],
  certificate: Certificate,
  options: MeasuringOptions,
): Promise<{ readings: Readings; audioSha256: string }> {
  const folder = await mkdtemp(join(tmpdir(), 'opsimeter-'));
  try {
    const joined = join(folder, 'joined.wav');
    if (files.length > 1) await joinChannels(files, joined);
    // An MPEG-4 file states its end to the frame, and its decoder plays its last packet out.
    const endFrame = FILE_FORMATS[certificate.format.kind].playsOutLastPacket ? certificate.frames : undefined;
    return await withAudio(
      files.length > 1 ? joined : files[0],
      async (audio) => ({
        readings: (await measureAudio(audio, options)).report.readings,
        audioSha256: await hashSamples(audio.path),
      }),
      { endFrame },
    );
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

function readCertificate(path: string): Certificate {
  try {
    return certificateSchema.parse(JSON.parse(readFileSync(path, 'utf8')));
  } catch (error) {
    throw new AppError('usage', { reason: messages.unreadable(path) }, { cause: error });
  }
}
