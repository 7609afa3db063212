import * as z from 'zod';
import { PlumbError } from '../picture/failure';
import { deliverySchema, type Delivery } from './schema';

/** A set of deliveries as a file: for another machine, or for whoever works on the same job. */
export const deliveriesFileSchema = z.object({
  format: z.literal('able-plumb/deliveries'),
  version: z.literal(1),
  deliveries: z.array(deliverySchema).max(200),
});

/** The text of a file with a set of deliveries. */
export const writeDeliveries = (deliveries: readonly Delivery[]): string =>
  `${JSON.stringify({ format: 'able-plumb/deliveries', version: 1, deliveries }, null, 2)}\n`;

/**
 * The deliveries of such a file.
 * @throws PlumbError with the place of the first value that is wrong
 */
export function readDeliveries(text: string): readonly Delivery[] {
  let raw: unknown;
  try {
    raw = JSON.parse(text);
  } catch {
    raw = null;
  }
  const read = deliveriesFileSchema.safeParse(raw);
  if (read.success) return read.data.deliveries;
  const at = read.error.issues[0]?.path.join('.') ?? '';
  throw new PlumbError(
    'no-deliveries',
    `This is not a set of deliveries${at ? `: ${at} is wrong` : ''}.`,
    'Your own deliveries stay as they are.',
  );
}
