import {
	allApplications,
	ApplicationForm,
	askApplications,
	follow,
	papersOf,
	unfollow
} from '$lib/server/connect/applications';
import { readiness } from '$lib/server/connect/business';
import {
	beginConsent,
	choicesOf,
	connect,
	draftCredentials,
	draftOf,
	forgetDraft,
	GivenForm,
	shownDraft
} from '$lib/server/connect/connecting';
import { consentCookie } from '$lib/server/connect/consentCookie';
import { featuresOf, neededNotices } from '$lib/core/notices';
import { CONNECTORS, type Connector, type Mode } from '$lib/server/connectors';
import { readForm } from '$lib/server/form';
import { error, fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import { timeNow } from '$lib/server/signals/clock';

const found = (processor: string): Connector =>
	Object.hasOwn(CONNECTORS, processor) ? CONNECTORS[processor]! : error(404, 'There is no such processor.');
const modeOf = (text: string | null): Mode => (text === 'test' ? 'test' : 'live');

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
	depends('live:connections');
	const connector = found(params.processor);
	const { name, fields, console, way, chooser, consent, byHand, about, application, sends } = connector;
	const drafts = await Promise.all(
		(['live', 'test'] as const).map((mode) => draftOf(params.processor, mode, locals.user!.id))
	);
	const mode = url.searchParams.has('mode')
		? modeOf(url.searchParams.get('mode'))
		: (drafts.find(Boolean)?.mode ?? 'live');
	const draft = drafts.find((one) => one?.mode === mode);
	const shown = shownDraft(connector, draft);
	const ready =
		!!chooser &&
		!!draft &&
		(consent ? shown.consented : Object.keys(shown.kept).length > 0 && url.searchParams.has('choose'));
	const choices = ready ? await choicesOf(connector, draftCredentials(draft), mode) : undefined;
	const needed = neededNotices(featuresOf(about.methods), []).needed.map((one) => one.notice);
	return {
		name,
		way,
		mode,
		fields,
		console,
		apply: about.apply,
		hasConsent: !!consent,
		scopes: consent ? Object.entries(consent.scopes) : [],
		chooser: chooser && { name: chooser.name, what: chooser.what, help: chooser.help },
		choices: choices && 'choices' in choices ? choices.choices : undefined,
		choiceTrouble: choices && 'trouble' in choices ? choices.trouble : undefined,
		byHand: byHand && {
			where: byHand.where,
			names: needed
				.filter((one) => sends.includes(one))
				.map((one) => byHand.names[one])
				.filter((one): one is string => !!one)
		},
		draft: shown,
		begun: !!draft,
		readiness: await readiness(about.asks),
		application: application && { looks: application.numberLooks },
		applications: (await allApplications())
			.filter((row) => row.processor === params.processor)
			.map((row) => ({
				id: row.id,
				number: row.number,
				mail: row.mail,
				state: row.state,
				papers: papersOf(row),
				says: row.says,
				askedAt: row.askedAt
			})),
		says: url.searchParams.get('says') === 'consented' ? `Consent is given at ${name}.` : ''
	};
};

export const actions: Actions = {
	connect: async ({ request, params, locals }) => {
		const connector = found(params.processor);
		const given = await request.formData();
		const { mode } = GivenForm.parse({ mode: modeOf(String(given.get('mode'))) });
		const names = [...connector.fields.map((one) => one.name), ...(connector.chooser ? [connector.chooser.name] : [])];
		const typed = Object.fromEntries(names.map((name) => [name, String(given.get(name) ?? '').slice(0, 300)]));
		const result = await connect(params.processor, mode, typed, locals.user!);
		if ('id' in result) redirect(303, `/connect/connections/${result.id}?new`);
		if ('choose' in result) redirect(303, `/connect/processors/${params.processor}?mode=${mode}&choose`);
		if ('trouble' in result) return fail(502, { trouble: result.trouble, errors: {} });
		const errors: Record<string, string> = {};
		const general: string[] = [];
		for (const { field, says } of result.problems)
			if (names.includes(field)) errors[field] = errors[field] ? `${errors[field]} ${says}` : says;
			else general.push(says);
		return fail(400, { errors, trouble: general.join(' ') || undefined });
	},
	consent: async ({ request, params, locals, cookies }) => {
		found(params.processor);
		const mode = modeOf(String((await request.formData()).get('mode')));
		const browser = consentCookie(cookies);
		redirect(303, await beginConsent(params.processor, mode, locals.user!.id, browser));
	},
	forget: async ({ request, params, locals }) => {
		found(params.processor);
		const mode = modeOf(String((await request.formData()).get('mode')));
		const draft = await draftOf(params.processor, mode, locals.user!.id);
		if (draft) await forgetDraft(draft);
		return { says: 'What was begun is forgotten. Nothing was connected.', errors: {} };
	},
	follow: async ({ request, params, locals }) => {
		const read = await readForm(request, ApplicationForm);
		if ('wrong' in read) return fail(400, { application: read.wrong, errors: {} });
		const trouble = await follow(params.processor, read.data, locals.user!.name);
		return trouble
			? fail(400, { application: { errors: { number: trouble }, values: { ...read.data } }, errors: {} })
			: { says: 'The application is followed from now on.', errors: {} };
	},
	ask: async () => {
		await askApplications(timeNow(), true);
		return { says: 'Asked again.', errors: {} };
	},
	unfollow: async ({ request, locals }) => {
		await unfollow(String((await request.formData()).get('id')), locals.user!.name);
		return { says: 'It is not followed any more.', errors: {} };
	}
};
