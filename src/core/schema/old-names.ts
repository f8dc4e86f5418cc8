import * as z from 'zod';

/**
 * A schema that also reads what earlier versions wrote under other names: job files, ZIPs and rows of the database stay readable when
 * a field is renamed. Where both names are stated, the new one holds.
 *
 * @param names each old name with the new one
 * @example readingOldNames(z.object({ trim: z.string() }), { keep: 'trim' }).parse({ keep: 'a' }) // { trim: 'a' }
 */
export function readingOldNames<T extends z.ZodType>(schema: T, names: Readonly<Record<string, string>>) {
  return z.preprocess((value) => {
    if (typeof value !== 'object' || value === null || Array.isArray(value)) return value;
    return Object.fromEntries([
      ...Object.entries(value).map(([name, own]) => [names[name] ?? name, own]),
      ...Object.entries(value).filter(([name]) => !(name in names)),
    ]);
  }, schema);
}
