/** Texts of review copies. */

export const reviewMessages = {
  title: (title: string) => `${title} (review copy)`,
  comment: 'Review copy, not for release',
  inName: (number: number) => (number === 1 ? '(review copy)' : `(review copy ${number})`),
};
