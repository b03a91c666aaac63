/** So many are kept of a kind; then all are made anew. Locales and time zones that are in use are fewer by far. */
const MOST = 200;

/**
 * A function whose answers are kept, for what is dear to make and to throw away: ten thousand formats of dates take half a
 * second to be cleared away, in which nobody is served.
 * @param make what is made of a key, the same each time
 */
export function keep<T>(make: (key: string) => T): (key: string) => T {
	const known = new Map<string, T>();
	return (key) => {
		const found = known.get(key);
		if (found !== undefined) return found;
		if (known.size >= MOST) known.clear();
		const made = make(key);
		known.set(key, made);
		return made;
	};
}
