/** Texts of lines, by component. */

export const linesScreenMessages = {
  title: 'Lines',
  summary: 'Sound from outside, measured while it sounds. Lines go on when no page is open.',
  add: 'Add a line',
  none: 'There is no line yet. Add a stream that is sent to this machine, or a simulated line to try what can be done here.',
  jobFirst: 'Start a job first: what is recorded of a line is taken into one.',
  open: (name: string) => `Open ${name}`,
};

export const lineStateMessages = {
  off: 'off',
  opening: 'opening …',
  sounding: 'on',
  lost: 'lost',
  recording: (time: string) => `recording ${time}`,
  recordingLine: 'recording',
};

export const lineScreenMessages = {
  allLines: 'All lines',
  edit: 'Edit',
  alarms: 'Alarms',
  turnOn: 'Turn on',
  turnOff: 'Turn off',
  pause: 'Pause',
  continue: 'Continue',
  pauseHint: 'Pause the measuring, not the line: integrated, range and maxima stand still (P)',
  reset: 'Reset',
  resetHint: 'Measure anew from now on (Backspace)',
  marker: 'Marker',
  markerHint: 'Add a marker now (M)',
  record: 'Record',
  recordHint: 'Record into the job of this line (R)',
  recordAgo: (seconds: number) => `with the last ${seconds} s`,
  stop: 'Stop and take in',
  recordOptions: 'options',
  preRoll: 'Recording begins',
  preRolls: { now: 'now', ago: '30 s ago' },
  depth: 'Written as',
  depths: { '24': '24-bit', '32': 'float' },
  turnOnFirst: 'The line is off',
  notSounding: 'Nothing comes from the line',
  framesLost: (frames: string) => `${frames} frames lost`,
  clock: (ppm: string) => `clock ${ppm} ppm`,
  stream: 'stream',
  simulated: 'simulated line',
  input: 'input of a browser',
  faults: 'Faults',
  offTitle: 'This line is off',
  offText: 'Turn it on to measure it. It then goes on whether a page is open or not.',
  into: (job: string) => `recorded into ${job}`,
};

export const lineReadingsMessages = {
  readings: 'Readings',
  momentary: 'momentary',
  shortTerm: 'short-term',
  integrated: 'integrated',
  range: 'range so far',
  truePeak: 'true peak',
  most: (level: string, time: string) => `${level} · ${time}`,
  mostHint: 'Highest since reset, and when',
  measured: (time: string) => `${time} measured`,
  paused: (time: string) => `${time}, paused`,
  peakAt: (time: string, channel: string) => `${channel} · ${time}`,
};

export const lineTraceMessages = {
  trace: 'Trace',
  ranges: { minute: '60 s', tenMinutes: '10 min', day: '24 h' },
  range: 'Time shown',
  about: (range: string) => `Momentary, short-term and integrated loudness of the last ${range}`,
  momentary: 'momentary',
  shortTerm: 'short-term',
  integrated: 'integrated',
  lost: 'no sound',
};

export const lineEventsMessages = {
  events: 'What happened',
  none: 'Nothing yet: overs, alarms and markers are listed here as they come.',
  goesOn: 'goes on',
  lasted: (seconds: string) => `${seconds} s`,
  allOn: 'All alarms are on',
};

export const projectionMessages = {
  planned: 'Planned length, minutes',
  title: 'Projection',
  noTarget: 'The spec asks for no integrated loudness.',
  noLength: 'Enter the planned length of the programme to see what the rest must average.',
  nothingMeasured: 'Nothing was measured yet.',
  overTime: 'The planned length is over.',
  must: (target: string, remaining: string) => `to end at ${target}, the remaining ${remaining} must average`,
  outOfReach: (target: string, remaining: string) => `${target} is out of reach in the remaining ${remaining}: at best`,
};

export const dayStripMessages = {
  today: 'the last 24 hours, in tens of minutes',
  inside: 'inside',
  outside: 'outside',
  lost: 'no sound',
  notMeasured: 'not measured',
  cell: (time: string, words: string) => `${time}: ${words}`,
  log: 'Log (CSV)',
  report: 'Report (PDF)',
  picture: 'Picture (SVG)',
};

export const recordingsMessages = {
  recordings: 'Recordings',
  none: 'Nothing has been recorded yet.',
  open: 'recording',
  recorded: 'being taken in',
  failed: 'nothing recorded',
  gaps: (count: number, seconds: string) => `${count} ${count === 1 ? 'gap' : 'gaps'}, ${seconds} s in all`,
  interrupted: 'interrupted',
};

export const lineFormMessages = {
  addTitle: 'Add a line',
  editTitle: (name: string) => `Edit ${name}`,
  about: 'A line is measured and logged while it is on. What is recorded of it is taken into its job.',
  name: 'Name',
  kind: 'Comes from',
  kinds: { stream: 'a stream', input: 'an input of this machine', simulated: 'a simulation' },
  inputRemark:
    'Turn the line on, then connect the input on its page. It is heard while a window of your browser sends it.',
  address: 'Address',
  addressExample: 'http://',
  addressRemark: 'http, https, rtp, srt or udp, from hosts that this server may open',
  job: 'Job',
  spec: 'Spec',
  specOfJob: 'that of the job',
  add: 'Add',
  save: 'Save',
  delete: 'Delete line',
  offFirst: 'Turn the line off first',
  enterAddress: 'Enter an address',
  enterName: 'Enter a name',
};

export const alarmsFormMessages = {
  title: (name: string) => `Alarms of ${name}`,
  about: 'Alarms are shown and logged. A line that is lost is always told.',
  heard: 'sound',
  heardHint: 'Sound it too, on a page that shows the line',
  save: 'Save',
  isOn: (name: string) => `${name} on`,
  isHeard: (name: string) => `${name} sounds`,
};
