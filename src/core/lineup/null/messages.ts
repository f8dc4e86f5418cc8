/** What is said of stems that do not add up to their mix. */
export const faultMessages = {
  muted: (stem: string) =>
    `${stem} is in the mix there, and silent in its file. It was probably muted when the stems were exported.`,
  absent: (stem: string) => `${stem} is not in the mix there. It was probably muted when the mix was exported.`,
  soloed: (stem: string) => `The mix has nothing but ${stem} there. It was probably soloed when the mix was exported.`,
  twice: (stem: string, twin: string) => `${stem} holds the same audio as ${twin}.`,
  shiftedLater: (stem: string, frames: number, milliseconds: string) =>
    `${stem} comes ${frames} frames (${milliseconds} ms) later in the mix than in its file.`,
  shiftedEarlier: (stem: string, frames: number, milliseconds: string) =>
    `${stem} comes ${frames} frames (${milliseconds} ms) earlier in the mix than in its file.`,
  inverted: (stem: string) => `${stem} has inverted polarity.`,
  gain: (stem: string, gain: string) => `${stem} is in the mix by ${gain}.`,
  processed: (stem: string) =>
    `What is left resembles ${stem}: it was processed in one of the two, by an equaliser, a compressor or the like.`,
  missing: 'What is left is in no stem: one is probably missing.',
};
