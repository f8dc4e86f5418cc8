import * as z from 'zod';

/** A schema for each field of a type, the optional ones included: the compiler tells of one that is missing or wrong. */
export type Fields<T> = { readonly [K in keyof T]-?: z.ZodType<T[K]> };

export const level = z.number().nullable();
