import { TARIFF } from '../../standins/brackwater/prices.ts';
import { PRICES } from '../../standins/fernhall/prices.ts';
import type { FileLine } from './settlement.ts';

// The processors' own published prices in whole numbers: a pricing of payments of settlement files that shares nothing with the
// product's.

const hundredths = (text: string) => BigInt(text.replace('.', ''));
const halfUp = (top: bigint, bottom: bigint) => Number((top * 2n + bottom) / (bottom * 2n));
const place = (issuer: string) => (issuer === 'BE' ? 'home' : ['NL', 'DE'].includes(issuer) ? 'near' : 'far');
/** Fernhall: a share and a fixed part, rounded once. */
export function fernhallFee({ minor, issuer, funding }: FileLine): number {
	const issued = { home: 'home', near: 'neighbours', far: 'elsewhere' }[place(issuer!)];
	const cards = funding === 'commercial' ? 'company' : 'private';
	const band = PRICES.bands.find((one) => one.issued === issued && one.cards === cards)!;
	return halfUp(BigInt(minor) * hundredths(band.share) + hundredths(band.plus) * 10_000n, 10_000n);
}
/** Brackwater: every part rounded, the markup by the step that the whole month reached. */
export function brackwaterFee({ minor, scheme, issuer, funding }: FileLine, month: number): number {
	const cost = TARIFF.COSTS.find((one) => one[0] === scheme && one[1] === funding && one[2] === place(issuer!))!;
	const step = TARIFF.MARKUP.find((one) => one.UPTO === null || month < Number(hundredths(one.UPTO)))!;
	const part = (share: string) => halfUp(BigInt(minor) * hundredths(share), 10_000n);
	return part(cost[3]) + part(cost[4]) + part(step.PCT) + Number(hundredths(step.EACH));
}
export const dayOf = (at: number) =>
	new Intl.DateTimeFormat('sv-SE', { timeZone: 'Europe/Brussels' }).format(new Date(at)).slice(0, 10);
