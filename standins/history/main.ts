import { writeHistory } from './write.ts';

// `node --import tsx standins/history/main.ts FOLDER 24000 REMEMBERED`
const [folder = 'data/settlements', payments = '24000', memory = ''] = process.argv.slice(2);
writeHistory(folder, Number(payments), memory);
