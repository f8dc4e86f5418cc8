/** What the parts of a manifest have in common. */
import * as z from 'zod';
import { safeFileName } from '../take-in/file-name';

export const sha256 = z.string().regex(/^[0-9a-f]{64}$/);
export const bytes = z.int().positive();
/** Ends with the year 9999: what is later is no date that could be shown. */
export const timeMs = z.int().min(0).max(253_402_300_799_999);
/** A name that is no path, and that no system hides. */
export const fileName = z.string().refine((name) => safeFileName(name) === name && !name.startsWith('.'));
/** Which programme, by its place among those of the job. */
export const place = z.int().nonnegative();
