/** Creates an error for each error number. */
export type ErrorNumbers = Readonly<Record<number, (number: number) => unknown>>;

/**
 * Turns error numbers into errors: throws the error that the table has for the answer, and returns any other
 * answer.
 *
 * @example
 * import { fromErrorNumber } from "sleeve";
 *
 * class BerthTaken extends Error {}
 * declare const ledger: { book(xml: string): number };
 * const booking = fromErrorNumber(ledger.book("<booking/>"), { [-3]: () => new BerthTaken("The berth is taken.") });
 */
export function fromErrorNumber<Answer>(answer: Answer, errors: ErrorNumbers): Answer {
  if (typeof answer === "number" && Object.hasOwn(errors, answer)) throw errors[answer]?.(answer);
  return answer;
}
