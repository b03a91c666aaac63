import { route } from '$lib/server/api/problem';
import { listFiles } from '$lib/server/api/records';

export const GET = route('fees', ({ url }) => listFiles(url.searchParams.get('cursor') ?? undefined));
