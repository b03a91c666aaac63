import { deflateRawSync, inflateRawSync } from 'node:zlib';

// Lines of a settlement file on their way into the database are much alike: packed, they are a tenth of what they were, and
// so is what is written for them and removed again.

export const packText = (text: string): string => deflateRawSync(text, { level: 1 }).toString('base64');
/** @throws Error where it is no packed text */
export const unpackText = (packed: string): string => inflateRawSync(Buffer.from(packed, 'base64')).toString();
