import { RateCard } from '$lib/core/fees';
import { json } from '@sveltejs/kit';
import { z } from 'zod';
import type { RequestHandler } from './$types';

/** The form of a rate card as a JSON Schema, made of the one by which cards are read. */
export const GET: RequestHandler = () => json(z.toJSONSchema(RateCard, { io: 'input' }));
