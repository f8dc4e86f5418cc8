/** Texts of the picture of a film. */
export const filmMessages = {
  pictureOf: (title: string) => `Picture of ${title}`,
  noPicture: 'The film has no picture.',
  noneHere: 'no picture here',
};
