/** Every problem that the interface tells, by its title: what it means for whoever wrote the program. */
export const PROBLEM_TITLES = {
	'Not signed in': 'No token was sent, or one that is unknown, expired or revoked.',
	'Not allowed': 'The token may not be used for this.',
	'Too many requests': 'Come again after the seconds that Retry-After tells.',
	'Broken request': 'The address or a parameter cannot be read.',
	'Not JSON': 'The body is not JSON.',
	'Not as described': 'The body is not as the document describes it; `faults` say where.',
	'Unsupported media type': 'The body is not sent as application/json.',
	'Too large': 'The body is larger than 1 MB.',
	'Too slow': 'The body did not come in time.',
	'Not found': 'There is no such thing, or not for this token.',
	'Method not allowed': 'The address does not take this method; Allow names those that it takes.',
	'Precondition required': 'Neither If-Match nor a revision was sent.',
	'Changed meanwhile': 'Somebody changed it since it was read. Read it again.',
	'Not to be published as it is': 'Payers would meet nothing, or an offer cannot be carried; `faults` say why.',
	'Another order': 'The reference is another order at this till already.',
	'Order replaced': 'The order was replaced by a later one.',
	'Order ended': 'The order was cancelled, or its time is over.',
	'Not to be cancelled': 'It is paid, or its money is on its way.',
	'Not done': 'It cannot be done now; the detail says why.',
	'Idempotency key': 'The key is missing, was used for another request, or its first request is still at work.',
	'Something went wrong here': 'The fault is ours. Nothing was changed; try again later.'
} as const;
export type ProblemTitle = keyof typeof PROBLEM_TITLES;

/** The stable name of a problem: its title as one word. */
export const codeOf = (title: string): string => title.toLowerCase().replace(/[^a-z]+/g, '-');
export const PROBLEM_CODES = Object.keys(PROBLEM_TITLES).map(codeOf) as [string, ...string[]];
