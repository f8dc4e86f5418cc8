/** Texts of the rule's fixed part. */

export const stockMessages = {
  shortTerm: (limit: string) => `short-term ≤ ${limit}`,
  ceiling: (ceiling: string) => `ceiling ${ceiling}`,
};
