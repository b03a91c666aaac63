import type { ZodType } from 'zod';

/** Reads a stored JSON text by its schema. @throws ZodError when the store holds something else */
export const readJson = <T>(schema: ZodType<T>, text: string): T => schema.parse(JSON.parse(text));
