/** Texts of inputs and outputs of the machine that the browser runs on. */
export const inputMessages = {
  notAllowed: 'this page may not listen: allow the microphone for it in your browser, and try again',
  notFound: 'this input is not there any more',
  inUse: 'another program uses this input alone',
};
