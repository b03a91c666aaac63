import { error } from '@sveltejs/kit';
import type { ConnectionRow, OfflineMethodRow } from '../db';
import { connectionById } from './connections';
import { offlineById } from './offline';

/** The connection of an address, or 404. */
export const foundConnection = async (id: string): Promise<ConnectionRow> =>
	(await connectionById(id)) ?? error(404, 'There is no such connection. It may have been disconnected.');

/** The offline method of an address, or 404. */
export const foundOffline = async (id: string): Promise<OfflineMethodRow> =>
	(await offlineById(id)) ?? error(404, 'There is no such offline method. It may have been removed.');
