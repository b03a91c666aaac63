import { receivablePayments, type PaymentRow } from '../db';

const AT_MOST = 100;

/** Offline payments that are still to come, the newest first. */
export const stillToReceive = (text: string): Promise<PaymentRow[]> => receivablePayments(text, AT_MOST);
