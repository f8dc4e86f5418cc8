/** Texts of controls that every page uses, by component. */

export const dialogMessages = {
  close: 'Close',
};

export const noticeMessages = {
  close: 'Close',
};
