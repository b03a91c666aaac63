import { abilityLines } from '$lib/server/accept/abilities';
import { csvFile } from '$lib/server/csv';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async () => csvFile('abilities.csv', await abilityLines());
