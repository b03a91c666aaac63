import { chartOfAccounts, LedgerForm, removeLedgerAccount, saveLedgerAccount } from '$lib/server/connect/books';
import { allConnections } from '$lib/server/connect/connections';
import { readForm } from '$lib/server/form';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async () => {
	const [accounts, connections] = await Promise.all([chartOfAccounts(), allConnections()]);
	return {
		accounts: accounts.map(({ number, name, kind }) => ({
			number,
			name,
			kind,
			usedBy: connections
				.flatMap((row) => [
					...(row.clearingAccount === number ? [`${row.name}, clearing`] : []),
					...(row.feeAccount === number ? [`${row.name}, fees`] : [])
				])
				.join('; ')
		}))
	};
};

export const actions: Actions = {
	save: async ({ request, locals }) => {
		const read = await readForm(request, LedgerForm);
		if ('wrong' in read) return fail(400, read.wrong);
		await saveLedgerAccount(read.data, locals.user!.name);
		return { says: `${read.data.number} ${read.data.name} is kept.` };
	},
	remove: async ({ request, locals }) => {
		const trouble = await removeLedgerAccount(String((await request.formData()).get('number')), locals.user!.name);
		return trouble ? fail(409, { trouble }) : { says: 'The account is removed.' };
	}
};
