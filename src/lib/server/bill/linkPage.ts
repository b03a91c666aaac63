import { readSum, withTax, type LinkSettings, type PrefilledValues } from '../../core/billing';
import { formatAmount, formatNumber, plainAmount, readPlainAmount } from '../../core/money';
import { countLinkOrders, type PayLinkRow } from '../db';
import { timeNow } from '../signals/clock';
import { longDay } from './payerDoc';
import { linkItems } from './linkOrders';

/** A link as its payer sees it. */
export async function linkPage(row: PayLinkRow, settings: LinkSettings, values: PrefilledValues, locale: string) {
	const items = settings.asksFor === 'goods' ? await linkItems(row) : new Map();
	const say = (minor: number) => formatAmount({ minor, currency: settings.currency }, locale);
	const left = settings.cap === null ? null : Math.max(0, settings.cap - (await countLinkOrders(row.id, timeNow())));
	const sum = values.sum ? readSum(values.sum, settings.currency) : undefined;
	return {
		slug: row.slug,
		title: settings.title,
		about: settings.about,
		picture: settings.picture,
		currency: settings.currency,
		asksFor: settings.asksFor,
		several: settings.several,
		sum:
			settings.asksFor === 'fixed sum'
				? {
						number: formatNumber({ minor: settings.fixed, currency: settings.currency }, locale),
						currency: settings.currency
					}
				: undefined,
		goods: settings.goods.flatMap(({ item, most, fixed }) => {
			const thing = items.get(item);
			const price = thing?.prices.find((one: { currency: string }) => one.currency === settings.currency)?.price;
			if (!thing || price === undefined) return [];
			const asked = thing.pricing === 'with tax' ? price : withTax(price, thing.rate, settings.currency);
			let shown: string;
			try {
				shown = say(readPlainAmount(asked, settings.currency).minor);
			} catch {
				shown = `${asked} ${settings.currency}`;
			}
			return [
				{
					id: item,
					name: thing.name,
					about: thing.about,
					picture: thing.picture,
					price: shown,
					most: thing.stock === null ? most : Math.min(most, thing.stock),
					fixed,
					isSoldOut: thing.stock === 0
				}
			];
		}),
		free: {
			least: settings.free.least ? say(settings.free.least) : '',
			most: settings.free.most ? say(settings.free.most) : '',
			suggested: settings.free.suggested.map((minor) => ({
				plain: plainAmount({ minor, currency: settings.currency }),
				says: say(minor)
			}))
		},
		/** a sum that the address names, where the link lets it be named */
		told:
			sum !== undefined && settings.asksFor === 'free sum'
				? plainAmount({ minor: sum, currency: settings.currency })
				: '',
		fields: settings.fields.map((field) => ({ ...field, value: values[`field.${field.id}`] ?? '' })),
		asks: {
			name: settings.asksName,
			mail: settings.asksMail,
			phone: settings.asksPhone,
			address: settings.asksAddress,
			taxNumber: settings.asksTaxNumber
		},
		filled: {
			name: values.name ?? '',
			mail: values.mail ?? '',
			phone: values.phone ?? '',
			quantity: values.quantity ?? ''
		},
		takesCodes: settings.takesCodes,
		button: settings.button,
		ownButton: settings.ownButton,
		until: longDay(settings.until, locale),
		left
	};
}
