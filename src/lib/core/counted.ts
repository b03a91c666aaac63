/**
 * A number of things in words: `1 payment`, `1,013 payments`.
 * @param locale BCP 47, for the digits
 * @param several the plural, where it is more than an s
 */
export const counted = (count: number, one: string, locale: string, several = `${one}s`): string =>
	`${count.toLocaleString(locale)} ${count === 1 ? one : several}`;
