import QRCode from 'qrcode';
import { addDays, inZone, formatLongDay } from '../../core/calendar';
import { formatAmount } from '../../core/money';
import { inFours, referenceFor, transferCode } from '../../core/references';
import type { BusinessRow, OfflineMethodRow } from '../db';
import { plainText } from './richText';
import { timeNow } from '../signals/clock';

/** How an offline method looks to the payer of a sample order of 84.50. */
export async function offlineSample(row: OfflineMethodRow, currency: string, business: BusinessRow, locale: string) {
	const amount = { minor: 8450, currency };
	const structured = row.referenceStyle === 'structured' ? referenceFor('WAS4175', 1) : '';
	const picture = (text: string) => QRCode.toDataURL(text, { errorCorrectionLevel: 'M', margin: 2, scale: 6 });
	const code =
		row.transferCode && currency === 'EUR'
			? await picture(
					transferCode({
						holder: row.holder,
						iban: row.iban,
						bic: row.bic,
						amount,
						...(structured ? { reference: structured } : { text: 'WAS-4175' })
					})
				)
			: undefined;
	const today = inZone(new Date(timeNow()), business.timeZone).day;
	return {
		sum: formatAmount(amount, locale),
		reference: row.referenceStyle === 'none' ? '' : structured ? inFours(structured) : 'WAS-4175',
		iban: inFours(row.iban),
		code,
		picture: row.pictureCode ? await picture(row.pictureCode) : undefined,
		until: row.termDays ? formatLongDay(addDays(today, row.termDays), locale) : '',
		plain: plainText(row.instructions)
	};
}
