import { error } from '@sveltejs/kit';
import type { ConnectionRow } from '../db';
import { connectionById } from './connections';

/** The connection of an address, or 404. */
export const foundConnection = async (id: string): Promise<ConnectionRow> =>
	(await connectionById(id)) ?? error(404, 'There is no such connection. It may have been disconnected.');
