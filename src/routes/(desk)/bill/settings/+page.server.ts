import { TAX_CATEGORIES } from '$lib/core/billing';
import { readTypedDecimal } from '$lib/core/money';
import {
	allSeries,
	billSettings,
	saveBillSettings,
	saveSeries,
	SERIES_KINDS,
	SeriesForm,
	type SeriesKind
} from '$lib/server/bill/settings';
import { allBrands } from '$lib/server/bill/brands';
import { theBusiness } from '$lib/server/connect/business';
import { BillSettings } from '$lib/server/bill/held';
import { MessageSettings, saveSending, sending, testMail } from '$lib/server/messages';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
	depends('live:bill');
	const [settings, series, brands, how] = await Promise.all([billSettings(), allSeries(), allBrands(), sending()]);
	return {
		settings,
		series,
		brands,
		categories: TAX_CATEGORIES,
		sending: { ...how.form, hasPassword: how.hasPassword, hasKey: how.hasKey, testedAt: how.testedAt, says: how.says }
	};
};

const daysOf = (typed: string): number => (/^\d+$/.test(typed.trim()) ? Number(typed) : NaN);

export const actions: Actions = {
	billing: async ({ request, locals }) => {
		const form = await request.formData();
		const of = (name: string) => String(form.get(name) ?? '');
		const file = form.get('file');
		let logo = of('keepLogo');
		if (file instanceof File && file.size)
			logo = `data:${file.type};base64,${Buffer.from(await file.arrayBuffer()).toString('base64')}`;
		const names = form.getAll('taxName').map(String);
		const taxes = names.flatMap((name, at) => {
			const rate = Number(
				readTypedDecimal(String(form.getAll('taxRate')[at] ?? '0').replace('%', ''), locals.locale) ?? NaN
			);
			return name.trim()
				? [{ name, category: String(form.getAll('taxCategory')[at] ?? ''), rate: Math.round(rate * 10_000) }]
				: [];
		});
		const read = BillSettings.safeParse({
			approval: of('approval'),
			pricing: of('pricing'),
			taxes,
			days: Number(of('days')),
			quoteDays: Number(of('quoteDays')),
			// a page that was opened before there was such a field does not change it
			noticeDays: form.has('noticeDays') ? daysOf(of('noticeDays')) : (await billSettings()).noticeDays,
			terms: of('terms'),
			noteFoot: of('noteFoot'),
			reason: of('reason'),
			accent: of('accent'),
			logo,
			fields: of('fields')
				.split('\n')
				.map((one) => one.trim())
				.filter(Boolean),
			instructions: of('instructions'),
			placesSure: form.get('placesSure') === 'on',
			tellPaid: of('tellPaid')
				.split(/[\s,;]+/)
				.filter(Boolean)
		});
		if (!read.success)
			return fail(400, {
				trouble: read.error.issues
					.slice(0, 4)
					.map((issue) => `${issue.path.join(' ')}: ${issue.message}`)
					.join(' ')
			});
		await saveBillSettings(read.data, locals.user!.name);
		return { says: 'Stored. New drafts begin with it; what was approved stays as it is.' };
	},
	series: async ({ request, locals }) => {
		const form = await request.formData();
		const kind = String(form.get('kind')) as SeriesKind;
		if (!SERIES_KINDS.includes(kind)) return fail(400, { trouble: 'There are no such numbers.' });
		const read = SeriesForm.safeParse(Object.fromEntries(form));
		if (!read.success) return fail(400, { trouble: read.error.issues.map((issue) => issue.message).join(' ') });
		const problem = await saveSeries(String(form.get('brandId') ?? ''), kind, read.data, locals.user!.name);
		return problem ? fail(409, { trouble: problem }) : { says: 'Stored. Numbers that were given stay as they are.' };
	},
	sending: async ({ request, locals }) => {
		const form = await request.formData();
		const read = MessageSettings.safeParse(
			Object.fromEntries([...form].filter(([, value]) => typeof value === 'string'))
		);
		if (!read.success)
			return fail(400, {
				trouble: read.error.issues.map((issue) => `${issue.path.join(' ')}: ${issue.message}`).join(' ')
			});
		await saveSending(
			read.data,
			{ password: String(form.get('password') ?? '') || undefined, key: String(form.get('key') ?? '') || undefined },
			locals.user!.name
		);
		return { says: 'Stored. Send a test mail to see that it works.' };
	},
	test: async ({ request }) => {
		const to = String((await request.formData()).get('to') ?? '').trim();
		if (!/^\S+@\S+\.\S+$/.test(to)) return fail(400, { trouble: 'Give the mail address that the test goes to.' });
		const answer = await testMail(to, (await theBusiness()).name);
		return 'problem' in answer ? fail(502, { trouble: answer.problem }) : answer;
	}
};
