import { billIndex } from '$lib/server/bill/index';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ depends, locals }) => {
	depends('live:bill');
	return billIndex(locals.locale);
};
