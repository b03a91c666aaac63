export { BillSettings } from '../db';
