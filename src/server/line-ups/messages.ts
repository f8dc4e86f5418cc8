/** Texts of line-ups, by file. */

export const lineUpMessages = {
  otherJob: 'a programme of a line-up is not in its job',
};

export const filmMessages = {
  ofNoFilm: 'the programme is no sound of a film',
};

export const isrcMessages = {
  noIsrc: (text: string) => `${text} is no ISRC: it has twelve characters, such as QD-A1A-26-00001`,
  notEnough: (first: string, count: number) => `the numbers after ${first} do not reach for ${count} programmes`,
};
