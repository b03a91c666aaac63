import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { historyOf } from './index.ts';

// Writes the houses' settlement files into one folder, and what the houses remember of it into another:
// `node --import tsx standins/history/main.ts FOLDER 24000 REMEMBERED`
const [folder = 'data/settlements', payments = '24000', memory = ''] = process.argv.slice(2);
mkdirSync(folder, { recursive: true });
const until = new Date(Date.now() - 86_400_000).toISOString().slice(0, 10);
const { files, remembered } = historyOf({ until, payments: Number(payments) });
for (const [house, text] of files) writeFileSync(join(folder, `${house}.csv`), text);
if (memory) {
	mkdirSync(memory, { recursive: true });
	for (const [house, list] of remembered) writeFileSync(join(memory, `${house}.json`), JSON.stringify(list));
}
