/** Texts and places in an AIFF or AIFF-C file, by the Audio Interchange File Format 1.3, from memory. */
import type { ByteSource } from '../bytes';
import { chunksOf, readChunk, textOf } from '../chunks';
import { addMarker, addTag, type Metadata, noMetadata } from '../metadata';

const MOST_BYTES = 4_000_000;

const TEXTS: Readonly<Record<string, string>> = {
  NAME: 'Title',
  AUTH: 'Author',
  '(c) ': 'Copyright',
  ANNO: 'Comment',
};

/** Reads every chunk but the samples. What is damaged says nothing. */
export async function readAiffMetadata(source: ByteSource): Promise<Metadata> {
  const metadata = noMetadata();
  for await (const chunk of chunksOf(source, false)) {
    const left = Math.max(0, source.size - chunk.offset);
    metadata.chunks.push({ id: chunk.id, bytes: Math.min(chunk.bytes ?? left, left) });
    if (chunk.id === 'SSND') continue;
    const body = await readChunk(source, chunk, MOST_BYTES);
    const text = TEXTS[chunk.id];
    if (text) addTag(metadata, text, textOf(body));
    else if (chunk.id === 'MARK') readMarkers(body, metadata);
    else if (chunk.id === 'COMT') readComments(body, metadata);
  }
  metadata.markers.sort((a, b) => a.frame - b.frame);
  return metadata;
}

function readMarkers(body: Uint8Array, metadata: Metadata): void {
  const view = new DataView(body.buffer, body.byteOffset, body.byteLength);
  for (let at = 2; at + 7 <= body.length; ) {
    const length = view.getUint8(at + 6);
    const label = textOf(body.subarray(at + 7, at + 7 + length));
    addMarker(metadata, {
      frame: view.getUint32(at + 2),
      lengthFrames: 0,
      label: label || `marker ${view.getUint16(at)}`,
    });
    // The count and its characters together are even.
    at += 7 + length + ((length + 1) % 2);
  }
}

function readComments(body: Uint8Array, metadata: Metadata): void {
  const view = new DataView(body.buffer, body.byteOffset, body.byteLength);
  for (let at = 2; at + 8 <= body.length; ) {
    const length = view.getUint16(at + 6);
    addTag(metadata, 'Comment', textOf(body.subarray(at + 8, at + 8 + length)));
    at += 8 + length + (length % 2);
  }
}
