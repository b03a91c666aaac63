import { PAYER_COLUMNS } from '$lib/core/payers';
import { payerRows } from '$lib/server/bill/payers';
import { today } from '$lib/server/connect/business';
import { csvStream } from '$lib/server/csv';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async () =>
	csvStream(`just-purse-payers-1-${await today()}.csv`, [...PAYER_COLUMNS], payerRows());
