import * as tus from 'tus-js-client';
import type { ErrorRecord } from '@/core/errors/app-error';
import { transferMessages as messages } from './messages';

/** Larger files than this are sent so that they can go on after an interruption. */
const RESUMABLE_BYTES = 100_000_000;
const UPLOADS_URL = '/api/uploads';
/** Long enough for a server to be started again. */
const RETRY_DELAYS_MS = [0, 1000, 2000, 4000, 8000, 15_000, 30_000, 60_000];

interface Taken {
  title: string;
  alreadyThere: boolean;
}

export type TransferOutcome = { taken: Taken } | { failure: string };

export interface Transfer {
  /** Stops it. What has arrived of a large file is given up as well. */
  abort(): void;
}

/** Sends one file to the job, in whatever way fits its size. */
export function send(
  jobId: string,
  file: File,
  onSent: (bytes: number) => void,
  onEnd: (outcome: TransferOutcome) => void,
): Transfer {
  return (file.size > RESUMABLE_BYTES ? sendResumably : sendWhole)(jobId, file, onSent, onEnd);
}

const sendWhole: typeof send = (jobId, file, onSent, ended) => {
  const key = fingerprintOf(jobId, file);
  remember({ key, jobId, fileName: file.name, sizeBytes: file.size });
  const onEnd: typeof ended = (outcome) => {
    forgetWhole(key);
    ended(outcome);
  };
  const request = new XMLHttpRequest();
  request.upload.onprogress = ({ loaded }) => onSent(loaded);
  request.onabort = () => onEnd({ failure: '' });
  request.onerror = () => onEnd({ failure: lost(file.name) });
  request.onload = () => onEnd(outcomeOf(request.status, request.responseText, file.name));
  request.open('PUT', `/api/jobs/${jobId}/sources?name=${encodeURIComponent(file.name)}`);
  request.send(file);
  return request;
};

const sendResumably: typeof send = (jobId, file, onSent, onEnd) => {
  const upload = new tus.Upload(file, {
    endpoint: UPLOADS_URL,
    metadata: { jobId, fileName: file.name },
    retryDelays: RETRY_DELAYS_MS,
    removeFingerprintOnSuccess: true,
    fingerprint: async () => fingerprintOf(jobId, file),
    onProgress: onSent,
    onSuccess: ({ lastResponse }) => onEnd(outcomeOf(lastResponse.getStatus(), lastResponse.getBody(), file.name)),
    onError: (error) => {
      const response = error instanceof tus.DetailedError ? error.originalResponse : null;
      const status = response?.getStatus() ?? 0;
      // What the server has refused will not be sent again; what the line has lost goes on another time.
      if (status >= 400 && status < 500) void forgetUpload(jobId, file);
      onEnd(status > 0 ? outcomeOf(status, response?.getBody() ?? '', file.name) : { failure: interrupted(file.name) });
    },
  });
  const start = async () => {
    const [previous] = await upload.findPreviousUploads();
    if (previous) upload.resumeFromPreviousUpload(previous);
    upload.start();
  };
  void start();
  return {
    abort() {
      onEnd({ failure: '' });
      void upload.abort(true).catch(() => undefined);
    },
  };
};

export interface Unfinished {
  key: string;
  fileName: string;
  sizeBytes: number;
  /** It goes on where it stopped; a smaller file is sent anew. */
  isResumable: boolean;
}

/** A file that was on its way in one piece when the page went away. */
interface Whole {
  key: string;
  jobId: string;
  fileName: string;
  sizeBytes: number;
}

const WHOLE_KEY = 'opsimeter-uploads';

function rememberedWhole(): Whole[] {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(WHOLE_KEY) ?? '[]');
    return Array.isArray(list) ? list : [];
  } catch {
    return [];
  }
}

function remember(upload: Whole): void {
  const others = rememberedWhole().filter(({ key }) => key !== upload.key);
  localStorage.setItem(WHOLE_KEY, JSON.stringify([...others, upload]));
}

function forgetWhole(own: string): void {
  localStorage.setItem(WHOLE_KEY, JSON.stringify(rememberedWhole().filter(({ key }) => key !== own)));
}

/** Files of this job that were interrupted, as this browser remembers them. */
export async function unfinishedUploads(jobId: string): Promise<Unfinished[]> {
  const uploads = (await storage().findAllUploads()).filter(({ metadata }) => metadata.jobId === jobId);
  const there = await Promise.all(uploads.map(({ uploadUrl }) => isThere(uploadUrl)));
  const whole = rememberedWhole().filter((upload) => upload.jobId === jobId);
  return [
    ...uploads.flatMap(({ urlStorageKey, metadata, size }, i) =>
      there[i]
        ? [{ key: urlStorageKey, fileName: metadata.fileName ?? '', sizeBytes: size ?? 0, isResumable: true }]
        : [],
    ),
    ...whole.map(({ key, fileName, sizeBytes }) => ({ key, fileName, sizeBytes, isResumable: false })),
  ];
}

export function forgetUnfinished(key: string): Promise<void> {
  forgetWhole(key);
  return storage().removeUpload(key);
}

async function forgetUpload(jobId: string, file: File): Promise<void> {
  const uploads = await storage().findUploadsByFingerprint(fingerprintOf(jobId, file));
  for (const { urlStorageKey } of uploads) await storage().removeUpload(urlStorageKey);
}

/** The same file for the same job, by what a browser tells of it without reading it. */
function fingerprintOf(jobId: string, { name, size, lastModified }: File): string {
  return ['opsimeter', jobId, name, size, lastModified].join('/');
}

function storage(): tus.UrlStorage {
  return tus.defaultOptions.urlStorage as tus.UrlStorage;
}

async function isThere(url: string | null): Promise<boolean> {
  if (!url) return false;
  const headers = { 'Tus-Resumable': '1.0.0' };
  return (await fetch(url, { method: 'HEAD', headers }).catch(() => undefined))?.ok ?? false;
}

function outcomeOf(status: number, body: string, fileName: string): TransferOutcome {
  try {
    const answer = JSON.parse(body) as Taken & { error?: ErrorRecord };
    if (status < 300) return { taken: answer };
    if (answer.error) {
      const { happened, safe, todo } = answer.error;
      return { failure: [happened, safe, todo].filter(Boolean).join(' ') };
    }
  } catch {
    // Not one of our answers: something between here and the server gave it.
  }
  return { failure: lost(fileName) };
}

function lost(fileName: string): string {
  return messages.didNotArrive(fileName);
}

function interrupted(fileName: string): string {
  return messages.interrupted(fileName);
}
