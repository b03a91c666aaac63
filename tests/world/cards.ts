/** Card numbers of the made-up schemes, by what Fernhall does with them. */
export const CARDS = {
	approved: '9901200000000007',
	declined: '9901901000000000',
	commercial: '9901500000000000',
	regional: '9901300000000005'
};
