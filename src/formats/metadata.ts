/** What a file carries beside its samples, whatever its container. */
import type { StartTimeCode } from '@/core/units/time-code';

export interface Marker {
  frame: number;
  /** 0 for a point in time. */
  lengthFrames: number;
  label: string;
}

interface Tag {
  name: string;
  value: string;
}

/** Loudness that a file states of itself; null where it doesn't. */
export interface StatedLoudness {
  integratedLufs: number | null;
  loudnessRangeLu: number | null;
  truePeakDbtp: number | null;
  maxMomentaryLufs: number | null;
  maxShortTermLufs: number | null;
}

/** The picture of a film. */
export interface Picture {
  codec: string;
  widthPx: number;
  heightPx: number;
  framesPerSecond: number;
}

/** One of several sound tracks of a file. */
export interface SoundTrack {
  /** Counted from 1. */
  number: number;
  codec: string;
  sampleRateHz: number;
  channels: number;
  /** As the file states them. */
  language: string | null;
  title: string | null;
}

export interface Metadata {
  tags: Tag[];
  /** In the order of time. */
  markers: Marker[];
  /** Frames after midnight at which the programme begins; null where the file states none. */
  timeReferenceFrames: number | null;
  /** Of the first frame of the sound; null where the file states none, or not at which rate. */
  timeCode: StartTimeCode | null;
  /** Null where there is sound alone. */
  picture: Picture | null;
  /** Of a file that has several; else none. */
  tracks: SoundTrack[];
  statedLoudness: StatedLoudness | null;
  /** One line for each step that the sound has been through, oldest first. */
  codingHistory: string[];
  /** Every part of the file, the samples' included, in the order they stand in. */
  chunks: { id: string; bytes: number }[];
}

/** Beyond these, a page would not be read anyway. */
const MOST_TAGS = 500;
const MOST_MARKERS = 5000;
const MOST_CHARACTERS = 4000;

export function noMetadata(): Metadata {
  return {
    tags: [],
    markers: [],
    timeReferenceFrames: null,
    timeCode: null,
    picture: null,
    tracks: [],
    statedLoudness: null,
    codingHistory: [],
    chunks: [],
  };
}

/** Adds a tag unless it is empty, or there already. */
export function addTag({ tags }: Metadata, name: string, value: string): void {
  const shown = value.trim().slice(0, MOST_CHARACTERS);
  if (shown === '' || tags.length >= MOST_TAGS) return;
  if (!tags.some((tag) => tag.name === name && tag.value === shown)) tags.push({ name, value: shown });
}

/** Adds a marker; one that stands there under the same name already is not repeated. */
export function addMarker({ markers }: Metadata, marker: Marker): void {
  const isKnown = markers.some(({ frame, label }) => frame === marker.frame && label === marker.label);
  if (!isKnown && markers.length < MOST_MARKERS) markers.push(marker);
}
