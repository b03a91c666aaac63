import { connectorOf } from '$lib/server/connectors';
import { foundConnection } from '$lib/server/connect/found';
import { neededOf } from '$lib/server/watch/needed';
import type { LayoutServerLoad } from './$types';
import { timeNow } from '$lib/server/signals/clock';

const DAY = 86_400_000;

export const load: LayoutServerLoad = async ({ params, depends }) => {
	depends('live:connections');
	const row = await foundConnection(params.id);
	const connector = connectorOf(row.processor);
	const needed = await neededOf(row);
	return {
		connection: {
			id: row.id,
			processor: row.processor,
			name: row.name,
			mode: row.mode,
			accountId: row.accountId,
			accountName: row.accountName,
			accountCountry: row.accountCountry,
			settlement: row.settlement,
			timeZone: row.timeZone,
			secretLast4: row.secretLast4,
			keyMadeAt: row.keyMadeAt,
			keyDays: row.keyMadeAt === null ? null : Math.max(0, Math.floor((timeNow() - row.keyMadeAt) / DAY)),
			oldUntil: row.oldUntil,
			oldLast4: row.oldSecretLast4,
			descriptor: row.descriptor,
			shortDescriptor: row.shortDescriptor,
			verified: row.verified === 1,
			paused: row.paused === 1,
			failing: row.failing === 1,
			accountReadAt: row.accountReadAt,
			hookHeardAt: row.hookHeardAt,
			missing: needed.missing.length
		},
		console: connector.console,
		chooser: connector.chooser && { what: connector.chooser.what, help: connector.chooser.help },
		needed
	};
};
