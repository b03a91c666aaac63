import { db } from '../db';
import { linkSettings } from './links';

/** The words that a pay link has for whoever has paid by it. */
export async function landingWords(orderId: number): Promise<string> {
	const claim = await db.orderClaims.one({ orderId, kind: 'link' });
	const link = claim?.linkId ? await db.payLinks.one({ id: claim.linkId }) : undefined;
	if (!link) return '';
	const settings = linkSettings(link);
	return settings.landing === 'own words' ? settings.landingText : '';
}
