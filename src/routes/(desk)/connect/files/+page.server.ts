import { pageOfFiles, FURTHER, HEADER, OTHERS, takeFile } from '$lib/server/history/files';
import { pastReach } from '$lib/server/history/reach';
import { accountClashes, allSources, mapSourceTo, seeAccountClash } from '$lib/server/history/sources';
import { allTills } from '$lib/server/accept/tills';
import { allOffline, offlineById } from '$lib/server/connect/offline';
import { CONNECTORS } from '$lib/server/connectors';
import { readUpload } from '$lib/server/upload';
import { formatAmount } from '$lib/core/money';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

/** Before the id of an offline method, where a file is the business's own. */
const OFFLINE = 'offline:';

export const load: PageServerLoad = async ({ depends, url, locals }) => {
	depends('live:connections');
	const page = Math.max(1, Math.trunc(Number(url.searchParams.get('page'))) || 1);
	const [{ files, more }, known, sources, tills, clashes, offline] = await Promise.all([
		pageOfFiles(page),
		pastReach(),
		allSources(),
		allTills(),
		accountClashes(),
		allOffline()
	]);
	const nameOf = async (processor: string, accountId: string) =>
		processor ? (CONNECTORS[processor]?.name ?? processor) : ((await offlineById(accountId))?.name ?? accountId);
	return {
		files: await Promise.all(
			files.map(
				async ({
					id,
					name,
					processor,
					accountId,
					count,
					fresh,
					declined,
					takenAt,
					byUser,
					state,
					merged,
					changed,
					clashes
				}) => ({
					id,
					name,
					processor: await nameOf(processor, accountId),
					count,
					fresh,
					declined,
					changed,
					clashes,
					progress: state === 'taken' ? undefined : Math.floor((100 * Math.min(merged, count)) / Math.max(1, count)),
					takenAt,
					byUser
				})
			)
		),
		offline: offline.map(({ id, name }) => ({ id, name })),
		processors: Object.values(CONNECTORS).map(({ processor, name }) => ({ processor, name })),
		header: HEADER,
		further: FURTHER,
		others: OTHERS,
		page,
		more,
		clashes: clashes.map(({ id, processor, kind, object, source, ...one }) => ({
			id,
			what: `${CONNECTORS[processor]?.name ?? processor}: ${kind} ${object}`,
			known: formatAmount({ minor: one.knownMinor, currency: one.knownCurrency }, locals.locale),
			told: formatAmount({ minor: one.toldMinor, currency: one.toldCurrency }, locals.locale),
			file: source.replace(/^file /, '')
		})),
		known,
		sources,
		tills: tills.map(({ id, name }) => ({ id, name }))
	};
};

export const actions: Actions = {
	take: async ({ request, locals }) => {
		const upload = await readUpload(request);
		const { file, fields } = upload;
		const { processor = '', connection } = fields;
		const offlineId = processor.startsWith(OFFLINE) ? processor.slice(OFFLINE.length) : undefined;
		const offline = offlineId === undefined ? undefined : await offlineById(offlineId);
		if (!offline && !Object.hasOwn(CONNECTORS, processor)) {
			upload.end();
			return fail(400, { trouble: 'Choose whose file it is.' });
		}
		if (!file) {
			upload.end();
			return fail(400, { trouble: 'Choose a file.', processor });
		}
		const giver = offline ? { offlineId: offline.id } : { processor };
		const result = await takeFile(file.name, giver, file.path, locals.user!.name, connection || undefined).finally(
			upload.end
		);
		if ('which' in result)
			return fail(409, {
				trouble: `${CONNECTORS[processor]!.name} has several accounts here. Choose whose file this is.`,
				processor,
				which: result.which.map(({ id, name }) => ({ id, name }))
			});
		if ('troubles' in result)
			return fail(422, {
				trouble: `${file.name} was not imported: ${result.troubles.length}${result.troubles.length === 50 ? ' or more' : ''} thing${result.troubles.length === 1 ? '' : 's'} wrong. Nothing of it was kept.`,
				troubles: result.troubles.map((one) => ({ line: one.line, says: one.says })),
				processor
			});
		if ('before' in result)
			return { says: `${file.name} was imported before, as ${result.before.name}. Nothing was changed.` };
		const { count, fresh, declined, changed, clashes, state } = result.taken;
		const many = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`;
		if (state !== 'taken')
			return {
				says: `${file.name} is checked and kept. Its ${many(count, 'payment')} are being imported; the list below tells how far.`
			};
		const more = [
			declined ? many(declined, 'declined attempt') : '',
			changed ? `${many(changed, 'known payment')} changed` : '',
			clashes ? `${many(clashes, 'contradiction')}, shown under Needs you` : ''
		].filter(Boolean);
		return {
			says: `${file.name} is imported: ${fresh} of its ${count} payments are new${more.length ? `; ${more.join('; ')}` : ''}.`
		};
	},
	seen: async ({ request, locals }) => {
		const id = Number((await request.formData()).get('id'));
		return (await seeAccountClash(id, locals.user!.name))
			? { says: 'Noted. What was known first stays as it was.' }
			: fail(404, { trouble: 'Somebody has looked at it already.' });
	},
	map: async ({ request, locals }) => {
		const form = await request.formData();
		const says = await mapSourceTo(String(form.get('source') ?? ''), String(form.get('till') ?? ''), locals.user!.name);
		return says ? { says } : fail(404, { trouble: 'There is no such till or name any more.' });
	}
};
