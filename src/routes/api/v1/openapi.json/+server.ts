import { openApi } from '$lib/server/api/document';
import { ownAddress } from '$lib/server/connect/connections';
import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** The document of the interface; nothing in it is secret. */
export const GET: RequestHandler = () => json(openApi(ownAddress()));
