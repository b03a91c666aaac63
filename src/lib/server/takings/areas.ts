import { EEA } from '../../core/cards';
import { RateCard } from '../../core/fees';
import { db } from '../db';
import { readJson } from '../json';

/** The areas within which a connection's rate card counts another country as regional. */
export async function rateCardAreas(connectionId: string): Promise<string[][]> {
	const latest = (await db.rateCards.find({ connectionId }, { order: [['validFrom', 'DESC']], limit: 1 }))[0];
	const areas = latest ? readJson(RateCard, latest.card).areas : [];
	return areas.length ? areas : [[...EEA]];
}
