import { randomBytes } from 'node:crypto';

/** An unguessable id for addresses and keys: 22 signs that stand in an address as they are. */
export const randomId = (): string => randomBytes(16).toString('base64url');
