import { stageCounts } from '../db';

/** How many payments stand at each stage. Trial payments and those of test mode are no money and not among them. */
export const countByStage = (): Promise<Map<string, number>> => stageCounts();
