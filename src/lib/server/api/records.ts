import type { z } from 'zod';
import { allConnections } from '../connect/connections';
import type { ConnectionRow } from '../db';
import { pageOfFiles } from '../history/files';
import { contractsOf, proposalsOf } from '../ratecards';
import { db } from '../db';
import { notFound, Problem } from './problem';
import type * as schemas from './schemas';

type ShownCard = z.output<typeof schemas.RateCards>['rateCards'][number];

async function show(row: ConnectionRow): Promise<ShownCard> {
	const [[contract], [proposal]] = await Promise.all([contractsOf(row.id), proposalsOf(row.id)]);
	return {
		connection: row.id,
		name: row.name,
		processor: row.processor,
		mode: row.mode,
		contract: contract ? { validFrom: contract.validFrom, card: contract.body } : null,
		proposal: proposal ? { validFrom: proposal.validFrom, card: db.rateCards.json.card(proposal.card) } : null
	};
}

/** What every connection is charged: the newest contract, and what its processor proposes. */
export const listRateCards = async (): Promise<z.output<typeof schemas.RateCards>> => ({
	rateCards: await Promise.all((await allConnections()).map(show))
});

/** The rate card of one connection. @throws Problem 404 */
export async function readRateCard(id: string | undefined): Promise<ShownCard> {
	const row = (await allConnections()).find((one) => one.id === id);
	if (!row) throw notFound('There is no such connection.');
	return show(row);
}

/** Settlement files that were imported, the newest first. @param cursor number of the page, from 1 */
export async function listFiles(cursor: string | undefined): Promise<z.output<typeof schemas.SettlementFiles>> {
	if (cursor !== undefined && !/^[1-9]\d{0,5}$/.test(cursor))
		throw new Problem(400, 'Broken request', '“cursor” is what `next` of the page before said.');
	const page = Number(cursor ?? 1);
	const { files, more } = await pageOfFiles(page);
	return {
		settlementFiles: files.map((row) => ({
			file: row.id,
			name: row.name,
			processor: row.processor,
			payments: row.count,
			fresh: row.fresh,
			changed: row.changed,
			declined: row.declined,
			importedAt: new Date(row.takenAt).toISOString(),
			importedBy: row.byUser
		})),
		next: more ? String(page + 1) : null
	};
}
