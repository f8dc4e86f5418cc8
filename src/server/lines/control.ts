import type { LineControl } from '../http/line-operations';
import type { Server } from '../server';

/** Does something with a line; returns the recording that has begun. Throws `not-found`, `line-off`, `line-not-allowed`, `already-recording`. */
export async function controlLine(
  { lines }: Pick<Server, 'lines'>,
  lineId: string,
  control: LineControl,
): Promise<string | null> {
  switch (control.do) {
    case 'turn-on':
      lines.turnOn(lineId);
      return null;
    case 'turn-off':
      await lines.turnOff(lineId);
      return null;
    case 'pause':
    case 'continue':
      lines.setHeld(lineId, control.do === 'pause');
      return null;
    case 'reset':
      lines.reset(lineId);
      return null;
    case 'marker':
      lines.marker(lineId);
      return null;
    case 'record':
      return lines.record(lineId, control);
    case 'stop-recording':
      lines.stopRecording(lineId);
      return null;
  }
}
