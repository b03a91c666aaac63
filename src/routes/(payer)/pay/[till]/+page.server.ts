import { hasCard, methodName } from '$lib/core/lineup';
import { formatNumber } from '$lib/core/money';
import { ownAddress } from '$lib/server/connect/connections';
import { readGiven } from '$lib/server/connect/credentials';
import { connectorOf, type NextStep } from '$lib/server/connectors';
import { isCheckoutKnown } from '$lib/server/db';
import { chooseOffline, noteUnmet, payThrough, standing, visit, type Visit } from '$lib/server/takings/charge';
import { error, fail, redirect, type RequestEvent } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

/** The payer's visit, or a clear page that says what is wrong with the address. */
async function visited({ params, url }: Pick<RequestEvent, 'url'> & { params: { till: string } }): Promise<Visit> {
	const arrival = await visit(params.till, url.search.slice(1));
	if ('unknownTill' in arrival)
		error(404, {
			message: 'There is no such till.',
			help: 'The address may be mistyped or cut short. Ask the shop for a new one.'
		});
	if ('problems' in arrival)
		error(400, {
			message: arrival.problems.map((one) => one.says).join(' '),
			help: 'Nothing was charged. Ask the shop for a new address.'
		});
	return arrival.visit;
}

const WHY: Record<string, string> = {
	scheme: 'this brand of card',
	funding: 'this kind of card',
	region: 'cards issued in this country'
};

export const load: PageServerLoad = async ({ params, url, locals, setHeaders }) => {
	const seen = await visited({ params, url });
	const { till, ask, offered, held } = seen;
	setHeaders({ 'cache-control': 'no-store' });
	const paid = (await isCheckoutKnown(till.row.id, seen.sign)) ? await standing(seen) : undefined;
	if (paid) redirect(303, `/paid/${paid.token}`);
	// an administrator who looks at the page is no payer who met nothing
	if (!offered.length && !url.searchParams.has('preview')) await noteUnmet(seen, 'nothing offered');
	const wanted = url.searchParams.get('way');
	const open = offered.find((one) => one.offer.id === wanted) ?? offered[0];
	const origin = ownAddress();
	const ways = offered.map((one) => {
		const connection = one.carrier.kind === 'connection' ? held.connections.get(one.carrier.id) : undefined;
		const fields =
			connection && one === open && hasCard(one.offer.method)
				? connectorOf(connection.processor).frame?.(
						readGiven(connection.given),
						one.offer.method,
						connection.mode,
						origin
					)
				: undefined;
		if (fields) locals.frames.push(fields.origin);
		else if (connection) locals.goes.push(new URL(connectorOf(connection.processor).console).origin);
		const schemes =
			one.types && one.types.schemes !== 'any'
				? one.types.schemes.map((id) => held.schemeNames[id] ?? id).join(', ')
				: '';
		return {
			id: one.offer.id,
			name: one.offer.name,
			note: one.offer.note,
			method: one.offer.method,
			offline: !connection,
			schemes,
			processor: connection?.name,
			descriptor: connection?.descriptor,
			fields
		};
	});
	return {
		shop: held.business.name,
		colour: till.row.colour,
		test: till.row.mode === 'test',
		sum: { number: formatNumber(ask.amount, locals.locale), currency: ask.amount.currency },
		reference: ask.reference,
		purpose: ask.purpose,
		name: ask.name,
		mail: ask.mail,
		query: url.search.slice(1).replace(/(^|&)way=[^&]*/g, ''),
		open: open?.offer.id,
		ways
	};
};

const Chosen = z.object({ way: z.string().min(1).max(60), token: z.string().max(200).default('') });

export const actions: Actions = {
	default: async ({ request, params, url }) => {
		const seen = await visited({ params, url });
		if (url.searchParams.has('preview')) return fail(400, { says: 'This is a preview: nothing is paid here.' });
		const read = Chosen.safeParse(Object.fromEntries(await request.formData()));
		if (!read.success) return fail(400, { says: 'The page was not complete. Please choose again.' });
		const { way, token } = read.data;
		const offered = seen.offered.find((one) => one.offer.id === way);
		if (!offered)
			return fail(409, {
				says: 'This way to pay is not to be had just now. Nothing was charged; please choose another.'
			});
		if (offered.carrier.kind === 'connection' && hasCard(offered.offer.method) && !token)
			return fail(400, { says: 'The card was not given yet. Nothing was charged.' });
		const choice =
			offered.carrier.kind === 'connection'
				? await payThrough(seen, offered, token)
				: await chooseOffline(seen, offered);
		if ('trouble' in choice) return fail(502, { says: choice.trouble });
		if ('notTaken' in choice) {
			const scheme = seen.held.schemeNames[choice.notTaken.scheme] ?? choice.notTaken.scheme;
			return fail(422, {
				says: `${seen.till.row.name} does not take ${choice.parts.map((part) => WHY[part]).join(', nor ')} (${scheme}${choice.notTaken.funding === 'unknown' ? '' : `, ${choice.notTaken.funding}`}${choice.notTaken.last4 ? `, ending in ${choice.notTaken.last4}` : ''}). Nothing was charged. Give another card, or choose another way.`
			});
		}
		const { payment } = choice;
		if (payment.stage === 'failed')
			return fail(402, {
				says: `${methodName(payment.method)} declined${payment.failure ? `: ${payment.failure.replace(/\.$/, '')}` : ''}. Nothing was charged. Try ${hasCard(payment.method) ? 'another card' : 'again'}, or choose another way.`
			});
		const next = payment.next ? (JSON.parse(payment.next) as NextStep) : undefined;
		redirect(303, next?.kind === 'page' ? next.address : `/paid/${payment.token}`);
	}
};
