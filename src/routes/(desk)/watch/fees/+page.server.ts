import { today } from '$lib/server/connect/business';
import { FEE_BY, feesOverTime, readFeesAsked, usualSpans } from '$lib/server/fees/overTime';
import { forecastMonth, pricedParts } from '$lib/server/fees/parts';
import { formatAmount } from '$lib/core/money';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:fees');
	const read = await readFeesAsked(url, locals.locale);
	if (!read) return { none: true as const };
	const { from, to, currency } = read.asked;
	const over = await feesOverTime(read.asked, locals.locale);
	const say = (minor: number) => formatAmount({ minor, currency }, locals.locale);
	return {
		asked: read.asked,
		wrong: read.wrong,
		spans: usualSpans(read.asked, await today()),
		...over,
		by: Object.entries(FEE_BY).map(([value, name]) => ({ value, name })),
		// what takes longer comes after the page, in the same answer
		parts: pricedParts(from, to, currency).then(({ fixed, conversion }) => {
			const { fee, expected, difference, account } = over.sums;
			const list = [
				{ name: 'Percentages', says: 'less what refunds gave back', minor: expected - fixed - conversion },
				{ name: 'Fixed parts', says: 'of each payment', minor: fixed },
				{ name: 'Conversion', says: 'of payments in another currency', minor: conversion },
				{ name: 'Not as agreed', says: 'charged beside the contract', minor: difference },
				{ name: 'Without a contract', says: 'charged where none was confirmed', minor: fee - expected - difference },
				{
					name: 'Charges of the accounts',
					says: 'months, payouts and others that belong to no payment',
					minor: account
				}
			];
			return {
				rows: list.filter((one) => one.minor !== 0).map(({ name, says, minor }) => ({ name, says, sum: say(minor) })),
				total: say(fee + account)
			};
		}),
		forecast: forecastMonth(currency, locals.locale)
	};
};
