/** Texts of what a receiver accepts, by file. */

export const acceptanceMessages = {
  leastBitRate: (leastKbps: number) => `, ${leastKbps} kbit/s or more`,
  namedWith: (words: string) => `named with ${words}`,
  mostSize: (most: string) => `${most} GB at most`,
  mustBeNamedWith: (fileName: string, words: string) => `${fileName} must be named with ${words}`,
  tooLarge: (size: string, most: string) => `it has ${size} GB, ${most} GB at most are accepted`,
  notAssessed: (why: string) => `not assessed (${why})`,
  bitRateTooLow: (kbps: number, leastKbps: number) =>
    `its bytes come to ${kbps} kbit/s, ${leastKbps} kbit/s or more are required`,
};
