import { csvStream } from '$lib/server/csv';
import { EVIDENCE_COLUMNS, evidenceRows } from '$lib/server/fees/view';
import type { RequestHandler } from './$types';

/** The payments behind a discrepancy, as a processor asks for them. */
export const GET: RequestHandler = ({ params }) =>
	csvStream(`just-purse-discrepancy-1-D-${Number(params.id)}.csv`, EVIDENCE_COLUMNS, evidenceRows(Number(params.id)));
