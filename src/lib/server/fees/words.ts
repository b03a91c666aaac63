import { keep } from '../../core/kept';

/** A card scheme as it is written: `corvid` is Corvid. */
export const schemeName = (id: string): string => (id ? id[0]!.toUpperCase() + id.slice(1) : '');

const monthFormat = keep(
	(locale) => new Intl.DateTimeFormat(locale, { month: 'long', year: 'numeric', timeZone: 'UTC' })
);
/** A month as it is written: `October 2026`. @param month `YYYY-MM` */
export const sayMonth = (month: string, locale: string): string =>
	monthFormat(locale).format(Date.parse(`${month}-15T12:00:00Z`));
