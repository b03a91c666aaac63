import { CURRENCIES } from '$lib/core/money';
import { inFours } from '$lib/core/references';
import { addBankAccount, allBankAccounts, BankAccountForm, removeBankAccount } from '$lib/server/connect/books';
import { theBusiness } from '$lib/server/connect/business';
import { allConnections } from '$lib/server/connect/connections';
import { readForm } from '$lib/server/form';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async () => {
	const [accounts, connections, business] = await Promise.all([allBankAccounts(), allConnections(), theBusiness()]);
	return {
		accounts: accounts.map(({ id, name, holder, iban, bic, currency }) => ({
			id,
			name,
			holder,
			iban: inFours(iban),
			bic,
			currency,
			usedBy: connections.filter((row) => row.bankAccountId === id).map((row) => ({ id: row.id, name: row.name }))
		})),
		holder: business.name,
		homeCurrency: business.homeCurrency,
		currencies: CURRENCIES
	};
};

export const actions: Actions = {
	add: async ({ request, locals }) => {
		const read = await readForm(request, BankAccountForm);
		if ('wrong' in read) return fail(400, read.wrong);
		const trouble = await addBankAccount(read.data, locals.user!.name);
		if (trouble) return fail(409, { errors: { iban: trouble }, values: { ...read.data } });
		return { says: `${read.data.name} is added.` };
	},
	remove: async ({ request, locals }) => {
		const trouble = await removeBankAccount(String((await request.formData()).get('id')), locals.user!.name);
		return trouble ? fail(409, { trouble }) : { says: 'The bank account is removed.' };
	}
};
