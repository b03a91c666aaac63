import { LinkSettings, PREFILLED, type PrefilledValues } from '$lib/core/billing';
import { formatMoment } from '$lib/core/calendar';
import { allTills, tillCurrencies } from '$lib/server/accept/tills';
import { snapshot } from '$lib/server/accept/snapshot';
import { theBusiness } from '$lib/server/connect/business';
import { linkHistory } from '$lib/server/bill/linkHistory';
import {
	linkAddress,
	linkById,
	linkSettings,
	linkStand,
	prefilledAddress,
	saveLink,
	setLinkClosed
} from '$lib/server/bill/links';
import { priceList } from '$lib/server/bill/prices';
import { error, fail, redirect } from '@sveltejs/kit';
import { parse } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import QRCode from 'qrcode';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, locals, depends }) => {
	depends('live:bill');
	const row = params.id === 'new' ? undefined : await linkById(params.id);
	if (params.id !== 'new' && !row) error(404, 'There is no such pay link.');
	const [items, tills, held, business] = await Promise.all([priceList(), allTills(), snapshot(), theBusiness()]);
	const address = row ? linkAddress(row) : '';
	return {
		id: row?.id ?? '',
		tillId: row?.tillId ?? tills.find((one) => one.kind === 'pay link')?.id ?? tills[0]?.id ?? '',
		revision: row?.revision ?? 0,
		settings: row ? linkSettings(row) : LinkSettings.parse({ title: '?', currency: business.homeCurrency, fixed: 0 }),
		isNew: !row,
		isClosed: row?.closedAt != null,
		shop: business.name,
		items: items.map(({ id, name, code, prices }) => ({ id, name, code, prices })),
		tills: tills.map((till) => ({
			id: till.id,
			slug: till.slug,
			name: till.name,
			mode: till.mode,
			colour: till.colour,
			currencies: tillCurrencies(till),
			ways: (held.tills.get(till.slug)?.published?.lineUp ?? []).map((offer) => ({ id: offer.id, name: offer.name }))
		})),
		prefilled: PREFILLED,
		stand: row && (await linkStand(row, locals.locale)),
		history: row
			? (await linkHistory(row.id)).map((one) => ({
					...one,
					when: formatMoment(one.at, locals.locale, business.timeZone)
				}))
			: [],
		code: address ? await QRCode.toString(address, { type: 'svg', errorCorrectionLevel: 'M', margin: 4 }) : '',
		png: address ? await QRCode.toDataURL(address, { errorCorrectionLevel: 'M', margin: 4, scale: 10 }) : ''
	};
};

const valuesOf = (record: Record<string, string>): PrefilledValues =>
	Object.fromEntries(
		Object.entries(record).filter(
			([name, value]) => value && ((PREFILLED as readonly string[]).includes(name) || name.startsWith('field.'))
		)
	);

export const actions: Actions = {
	save: async ({ request, params, locals }) => {
		const form = await request.formData();
		let given: unknown;
		try {
			given = JSON.parse(String(form.get('settings') ?? ''));
		} catch {
			return fail(400, { trouble: 'The settings did not come whole. Try again.' });
		}
		const read = LinkSettings.safeParse(given);
		if (!read.success) {
			const errors: Record<string, string> = {};
			for (const issue of read.error.issues) errors[String(issue.path[0])] ??= issue.message;
			return fail(400, { errors });
		}
		const saved = await saveLink(
			{ tillId: String(form.get('tillId') ?? ''), settings: read.data, revision: Number(form.get('revision') ?? 0) },
			params.id === 'new' ? undefined : params.id,
			locals.user!.name
		);
		if ('wrong' in saved) return fail(409, { errors: saved.wrong });
		if (params.id === 'new') redirect(303, `/bill/links/${saved.id}?made`);
		return { says: 'Stored. The same address shows it from now on.' };
	},
	close: async ({ request, params, locals }) => {
		const isClosed = (await request.formData()).get('on') === 'yes';
		await setLinkClosed(params.id, isClosed, locals.user!.name);
		return { says: isClosed ? 'Closed: payers read that it is. Its address stays.' : 'Open again.' };
	},
	/** One address with fields filled in, signed. */
	prefill: async ({ request, params }) => {
		const row = await linkById(params.id);
		if (!row) return fail(404, { trouble: 'This link is gone.' });
		const values = valuesOf(
			Object.fromEntries([...(await request.formData())].map(([name, value]) => [name, String(value).trim()]))
		);
		return { prefilled: prefilledAddress(row, values) };
	},
	/** One for each line of a file. */
	prefillMany: async ({ request, params }) => {
		const row = await linkById(params.id);
		const file = (await request.formData()).get('file');
		if (!row || !(file instanceof File) || !file.size)
			return fail(400, { trouble: 'Choose a CSV file whose first line names the fields.' });
		let records: Record<string, string>[];
		try {
			records = parse(await file.text(), {
				bom: true,
				columns: (names: string[]) => names.map((one) => one.trim()),
				delimiter: [',', ';'],
				skip_empty_lines: true,
				trim: true,
				relax_column_count: true
			});
		} catch (wrong) {
			return fail(400, { trouble: `It cannot be read as CSV: ${(wrong as Error).message}` });
		}
		if (records.length > 20_000) return fail(400, { trouble: 'At most 20,000 lines at once.' });
		return {
			csv: stringify(
				records.map((one) => ({ ...one, address: prefilledAddress(row, valuesOf(one)) })),
				{ header: true, bom: true, record_delimiter: 'windows' }
			)
		};
	}
};
