import { useWritten, type WrittenCode } from './generated/ahead.ts';
import { planOf } from './intake.ts';

export type { WrittenCode } from './generated/ahead.ts';

/**
 * Lets an intake be judged by code that was written ahead of time: `withCode(booking, bookingCode)`.
 *
 * Gives the same intake
 * @throws Fault when the intake has changed since, or another version of Jestril wrote the code
 */
export function withCode<I extends { readonly name: string }>(intake: I, written: WrittenCode): I {
  useWritten(planOf(intake), written);
  return intake;
}
