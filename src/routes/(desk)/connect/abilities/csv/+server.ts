import { abilityLines } from '$lib/server/connect/abilities';
import { stringify } from 'csv-stringify/sync';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async () =>
	new Response(stringify(await abilityLines(), { header: true, escape_formulas: true, bom: true }), {
		headers: {
			'content-type': 'text/csv; charset=utf-8',
			'content-disposition': 'attachment; filename="abilities.csv"'
		}
	});
