/** Texts of transfers to receivers, by file. */

export const httpMessages = {
  addressNeedsAScheme: 'An address begins with http:// or https://',
  noPasswordInAddress: 'Leave the password out of the address, and set a secret instead',
  answered: (status: number) => `it answered ${status}`,
  refusedAddress: 'Nothing is sent to an address where machines tell their own secrets',
  signatureRefused: (status: number) => `it does not accept the signature (${status})`,
};

export const transfersMessages = {
  alreadyThere: (name: string) => `${name} already has it; nothing is sent twice`,
  missesItsSpec: 'a file that misses its spec is accepted with a reason first',
  removedHere: 'it was removed here',
  sendingTo: (name: string) => `sending to ${name}`,
  received: 'received; waiting for the answer',
  sentAgain: 'the receiver no longer has it; it is sent again',
  givenUp: (reason: string, tries: number) => `${reason}: given up after ${tries} tries`,
  retrying: (reason: string, seconds: string) => `${reason}; retrying in ${seconds} s`,
};

export const addressMessages = {
  refused: 'nothing is sent to such an address',
};

export const dropFolderMessages = {
  fullPath: 'Enter the full path of a folder',
  outside: (folders: readonly string[]) =>
    folders.length === 0
      ? 'This server has no drop folders: name them in OPSIMETER_DROP_FOLDERS, and start the app again'
      : `Enter a folder inside ${folders.join(' or ')}; others have to be named in OPSIMETER_DROP_FOLDERS`,
};

export const transportMessages = {
  nothingAnswers: 'nothing answers at its address',
  connectionLost: 'connection lost',
  unknownAddress: 'its address is unknown',
  tooSlow: 'it did not answer in time',
  noFolder: 'its folder does not exist',
  notWritable: 'its folder may not be written to',
  diskFull: 'its disk is full',
};
