import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { booksOf } from './books.ts';
import { historyOf } from './index.ts';

/**
 * Writes the houses' settlement files into one folder, and into another what the houses remember of it, with the business's
 * own books of what it received by its offline methods, until yesterday. The houses' files tell what was taken until now.
 */
export function writeHistory(folder: string, payments: number, memory: string): void {
	mkdirSync(folder, { recursive: true });
	const dayOf = (at: number) => new Date(at).toISOString().slice(0, 10);
	const until = dayOf(Date.now() - 86_400_000);
	const { files, remembered, billed, ordered } = historyOf({
		until: dayOf(Date.now() + 86_400_000),
		payments,
		now: Date.now(),
		byLines: true
	});
	for (const [house, text] of files) writeFileSync(join(folder, `${house}.csv`), text);
	if (!memory) return;
	mkdirSync(memory, { recursive: true });
	for (const [method, text] of booksOf(until)) writeFileSync(join(memory, `books-${method}.csv`), text);
	writeFileSync(join(memory, 'billed.json'), JSON.stringify(billed));
	writeFileSync(join(memory, 'ordered.json'), JSON.stringify(ordered));
	for (const [house, list] of remembered) writeFileSync(join(memory, `${house}.json`), JSON.stringify(list));
}
