/** The audio definition (ADM, ITU-R BS.2076 and BS.2088, from memory) of an immersive programme of the demo. */
import type { ChunkBody } from '@/formats/chunks';

/** A place that an object comes to: seconds, and degrees to the left and above. */
type Step = readonly [atSeconds: number, azimuth: number, elevation: number];

interface DemoObject {
  name: string;
  /** Of a bed, the loudspeakers of its channels by ITU-R BS.2051; of an object, the places that it goes through. */
  bed?: readonly string[];
  path?: readonly Step[];
}

export interface DemoDefinition {
  programmes: readonly { name: string; language: string; objects: readonly string[] }[];
  objects: readonly DemoObject[];
  seconds: number;
}

const hex = (number: number) => number.toString(16).padStart(4, '0');
const FIRST = 0x1001;
const BED = { type: '0001', name: 'DirectSpeakers' };
const OBJECT = { type: '0003', name: 'Objects' };
const LFE_AZIMUTH = 45;
const LFE_ELEVATION = -30;

function time(seconds: number): string {
  const [hours, minutes] = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60];
  const two = (n: number) => String(n).padStart(2, '0');
  return `${two(hours)}:${two(minutes)}:${(seconds % 60).toFixed(5).padStart(8, '0')}`;
}

function position(azimuth: number, elevation: number): string {
  return `<position coordinate="azimuth">${azimuth.toFixed(1)}</position><position coordinate="elevation">${elevation.toFixed(1)}</position>`;
}

/** The channel of a loudspeaker: its name says where it stands. */
function speakerBlocks(label: string): string {
  const isLfe = label === 'LFE1';
  const elevation = isLfe ? LFE_ELEVATION : label.startsWith('U') ? 30 : 0;
  const azimuth = isLfe ? LFE_AZIMUTH : Number(label.slice(1));
  const name = `<speakerLabel>urn:itu:bs:2051:0:speaker:${label}</speakerLabel>`;
  const block = `<audioBlockFormat audioBlockFormatID="AB_ID_00000001">${name}${position(azimuth, elevation)}</audioBlockFormat>`;
  return isLfe ? `<frequency typeDefinition="lowPass">120</frequency>${block}` : block;
}

/** A block from each place of a path to the next. */
function pathBlocks(path: readonly Step[], seconds: number): string {
  return path
    .map(([at, azimuth, elevation], i) => {
      const duration = (path[i + 1]?.[0] ?? seconds) - at;
      const number = String(i + 1).padStart(8, '0');
      return `<audioBlockFormat audioBlockFormatID="AB_ID_${number}" rtime="${time(at)}" duration="${time(duration)}">${position(azimuth, elevation)}</audioBlockFormat>`;
    })
    .join('');
}

/** The `chna` and `axml` of a file whose channels are those of the objects, in their order. */
export function definitionChunks({ programmes, objects, seconds }: DemoDefinition): ChunkBody[] {
  const lines: string[] = [];
  const objectId = (name: string) => `AO_${hex(FIRST + objects.findIndex((object) => object.name === name))}`;
  programmes.forEach(({ name, language, objects: own }, i) => {
    const id = hex(FIRST + i);
    lines.push(
      `<audioProgramme audioProgrammeID="APR_${id}" audioProgrammeName="${name}" audioProgrammeLanguage="${language}"><audioContentIDRef>ACO_${id}</audioContentIDRef></audioProgramme>`,
      `<audioContent audioContentID="ACO_${id}" audioContentName="${name}">${own.map((object) => `<audioObjectIDRef>${objectId(object)}</audioObjectIDRef>`).join('')}</audioContent>`,
    );
  });
  const tracks: { uid: string; format: string; pack: string }[] = [];
  for (const { name, bed, path = [] } of objects) {
    const { type, name: definition } = bed ? BED : OBJECT;
    const pack = `AP_${type}${objectId(name).slice(3)}`;
    const channels = (bed ?? [name]).map((label) => {
      const number = hex(FIRST + tracks.length);
      const uid = `ATU_${String(tracks.length + 1).padStart(8, '0')}`;
      tracks.push({ uid, format: `AT_${type}${number}_01`, pack });
      const blocks = (bed ? speakerBlocks(label) : pathBlocks(path, seconds)).replaceAll(
        'AB_ID',
        `AB_${type}${number}`,
      );
      return { id: `${type}${number}`, uid, label, blocks };
    });
    lines.push(
      `<audioObject audioObjectID="${objectId(name)}" audioObjectName="${name}"><audioPackFormatIDRef>${pack}</audioPackFormatIDRef>${channels.map(({ uid }) => `<audioTrackUIDRef>${uid}</audioTrackUIDRef>`).join('')}</audioObject>`,
      `<audioPackFormat audioPackFormatID="${pack}" audioPackFormatName="${name}" typeLabel="${type}" typeDefinition="${definition}">${channels.map(({ id }) => `<audioChannelFormatIDRef>AC_${id}</audioChannelFormatIDRef>`).join('')}</audioPackFormat>`,
      ...channels.map(
        ({ id, uid, label, blocks }) =>
          `<audioChannelFormat audioChannelFormatID="AC_${id}" audioChannelFormatName="${label}" typeLabel="${type}" typeDefinition="${definition}">${blocks}</audioChannelFormat>` +
          `<audioStreamFormat audioStreamFormatID="AS_${id}" audioStreamFormatName="PCM_${label}" formatDefinition="PCM"><audioChannelFormatIDRef>AC_${id}</audioChannelFormatIDRef><audioTrackFormatIDRef>AT_${id}_01</audioTrackFormatIDRef></audioStreamFormat>` +
          `<audioTrackFormat audioTrackFormatID="AT_${id}_01" audioTrackFormatName="PCM_${label}" formatDefinition="PCM"><audioStreamFormatIDRef>AS_${id}</audioStreamFormatIDRef></audioTrackFormat>` +
          `<audioTrackUID UID="${uid}"><audioTrackFormatIDRef>AT_${id}_01</audioTrackFormatIDRef><audioPackFormatIDRef>${pack}</audioPackFormatIDRef></audioTrackUID>`,
      ),
    );
  }
  const axml = `<?xml version="1.0" encoding="UTF-8"?>\n<ebuCoreMain xmlns="urn:ebu:metadata-schema:ebuCore_2014"><coreMetadata><format><audioFormatExtended>\n${lines.join('\n')}\n</audioFormatExtended></format></coreMetadata></ebuCoreMain>\n`;
  return [
    { id: 'chna', body: chnaOf(tracks) },
    { id: 'axml', body: new TextEncoder().encode(axml) },
  ];
}

function chnaOf(tracks: readonly { uid: string; format: string; pack: string }[]): Uint8Array {
  const body = new Uint8Array(4 + 40 * tracks.length);
  const view = new DataView(body.buffer);
  view.setUint16(0, tracks.length, true);
  view.setUint16(2, tracks.length, true);
  tracks.forEach(({ uid, format, pack }, i) => {
    view.setUint16(4 + 40 * i, i + 1, true);
    body.set(new TextEncoder().encode(uid + format + pack), 6 + 40 * i);
  });
  return body;
}
