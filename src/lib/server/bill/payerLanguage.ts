import { openLanguage, type OpenLanguage } from '../../core/billing';
import { db } from '../db';

/** The language that a payer is written to in, where it is known. */
export async function languageOfPayer(payerId: string | null): Promise<OpenLanguage | undefined> {
	const payer = payerId ? await db.payers.one({ id: payerId }) : undefined;
	return openLanguage(payer?.language ?? '');
}
