/** Texts of requests. */
export const framesMessages = {
  notWhole: 'whole frames are taken, of at most 4 MB',
};
