import { CALENDARS, calendarNamed } from '$lib/core/calendar';
import { readAccount } from '$lib/server/connectors/account';
import { allBankAccounts, chartOfAccounts } from '$lib/server/connect/books';
import { change, setDescriptor } from '$lib/server/connect/connections';
import { foundConnection } from '$lib/server/connect/found';
import { speak } from '$lib/server/speak/speak';
import { connectorOf, ConnectorError } from '$lib/server/connectors';
import { readForm } from '$lib/server/form';
import { neededOf, setUpNotices } from '$lib/server/watch/needed';
import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params }) => {
	const row = await foundConnection(params.id);
	const account = readAccount(row.account);
	const [banks, ledger] = await Promise.all([allBankAccounts(), chartOfAccounts()]);
	return {
		limits: account.descriptor,
		shortLimits: account.shortDescriptor,
		payout: account.payout,
		authorisationDays: connectorOf(row.processor).capture ? account.authorisationDays : undefined,
		values: {
			capture: row.capture,
			bankAccountId: row.bankAccountId ?? '',
			expectedDays: row.expectedDays === null ? '' : String(row.expectedDays),
			cutOff: row.cutOff,
			bankCalendar: calendarNamed(row.bankCalendar).name,
			clearingAccount: row.clearingAccount,
			feeAccount: row.feeAccount
		},
		banks: banks.map(({ id, name, iban, currency }) => ({
			id,
			name: `${name}, ${currency}, •••• ${iban.slice(-4)}`,
			fits: currency === row.settlement
		})),
		ledger: ledger.map(({ number, name, kind }) => ({ number, name, kind })),
		calendars: CALENDARS.map((one) => one.name)
	};
};

const Money = z.object({
	capture: z.enum(['at once', 'later']).default('at once'),
	bankAccountId: z.string().default(''),
	schedule: z.string().default(''),
	expectedDays: z
		.string()
		.trim()
		.regex(/^([0-9]|[1-5][0-9]|60)?$/, 'Whole bank days, at most 60; empty for what the processor says.')
		.default(''),
	cutOff: z
		.string()
		.trim()
		.regex(/^(([01]\d|2[0-3]):[0-5]\d)?$/, 'A time such as 18:00; empty for what the processor says.')
		.default(''),
	bankCalendar: z
		.string()
		.refine((name) => name === '' || CALENDARS.some((one) => one.name === name), 'Choose a calendar.')
		.default(''),
	clearingAccount: z.string().default(''),
	feeAccount: z.string().default('')
});

export const actions: Actions = {
	descriptor: async ({ params, locals, request }) => {
		const given = await request.formData();
		const read = (name: string) => String(given.get(name) ?? '').slice(0, 100);
		const descriptor = read('descriptor');
		const shortDescriptor = read('shortDescriptor');
		const wrong = await setDescriptor(await foundConnection(params.id), descriptor, locals.user!.name, shortDescriptor);
		return wrong.descriptor || wrong.shortDescriptor
			? fail(400, { descriptor, shortDescriptor, errors: { ...wrong } as Record<string, string> })
			: { says: `Payers’ statements will say ${descriptor}.` };
	},
	money: async ({ params, locals, request }) => {
		const row = await foundConnection(params.id);
		const read = await readForm(request, Money);
		if ('wrong' in read) return fail(400, read.wrong);
		const { schedule: rhythm, expectedDays, bankAccountId, ...rest } = read.data;
		const account = readAccount(row.account);
		const errors: Record<string, string> = {};
		if (rest.capture === 'later' && !(connectorOf(row.processor).capture && account.authorisationDays))
			errors.capture = `${row.name} takes money at once.`;
		const bank = bankAccountId ? (await allBankAccounts()).find((one) => one.id === bankAccountId) : undefined;
		if (bankAccountId && bank?.currency !== row.settlement)
			errors.bankAccountId = `${row.name} settles in ${row.settlement}; choose an account in it.`;
		const chart = await chartOfAccounts();
		for (const name of ['clearingAccount', 'feeAccount'] as const)
			if (rest[name] && !chart.some((one) => one.number === rest[name])) errors[name] = 'There is no such account.';
		if (Object.keys(errors).length) return fail(400, { errors, values: read.data as Record<string, string> });
		if (rhythm && rhythm !== account.payout.rhythm && account.payout.rhythms?.includes(rhythm)) {
			try {
				await speak(row, async (connector, credentials) => connector.setRhythm?.(credentials, rhythm));
			} catch (error) {
				if (!(error instanceof ConnectorError)) throw error;
				return fail(502, {
					trouble: `${error.message} Nothing was saved.`,
					errors,
					values: read.data as Record<string, string>
				});
			}
			await change(
				row,
				{ account: JSON.stringify({ ...account, payout: { ...account.payout, rhythm } }) },
				`set the payout schedule to ${rhythm}`,
				locals.user!.name
			);
		}
		await change(
			row,
			{
				...rest,
				bankAccountId: bankAccountId || null,
				expectedDays: expectedDays === '' ? null : Number(expectedDays)
			},
			'changed its settings',
			locals.user!.name
		);
		// money that is only held is heard of by notifications that nothing needed before
		const after = await foundConnection(params.id);
		const { missing, oneStep } = await neededOf(after);
		if (!missing.length) return { says: 'The settings are kept.' };
		const trouble = oneStep ? await setUpNotices(after, locals.user!.name) : 'they are set up by hand there.';
		return {
			says: trouble
				? `The settings are kept. Notifications are missing (${missing.join(', ')}): ${trouble}`
				: `The settings are kept, and the notifications that they need (${missing.join(', ')}) are set up at ${row.name}.`
		};
	}
};
