import * as z from 'zod';

/** Some of an object's fields: what is left out is left as it is, and not set to what it is by default. */
export function someOf<S extends z.ZodRawShape>(schema: z.ZodObject<S>): z.ZodType<Partial<z.infer<z.ZodObject<S>>>> {
  const fields = Object.entries<z.ZodType>(schema.shape as never).map(([name, field]) => [
    name,
    z.optional(field instanceof z.ZodDefault ? (field.removeDefault() as z.ZodType) : field),
  ]);
  return z.strictObject(Object.fromEntries(fields)) as never;
}
