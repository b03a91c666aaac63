/** A card scheme as it is written: `corvid` is Corvid. */
export const schemeName = (id: string): string => (id ? id[0]!.toUpperCase() + id.slice(1) : '');
