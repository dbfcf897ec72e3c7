import { distance } from "fastest-levenshtein";

/** Returns the most similar known name, if it is close enough to be a typing error. */
export function nearestName(name: string, known: readonly string[]): string | undefined {
  const ranked = known
    .map((entry) => ({ entry, edits: distance(name.toLowerCase(), entry.toLowerCase()) }))
    .sort((left, right) => left.edits - right.edits);
  const [best] = ranked;
  return best && best.edits <= (name.length < 4 ? 1 : Math.max(2, Math.floor(name.length / 3)))
    ? best.entry
    : undefined;
}

/** Whether two names differ by a typing error: one letter, two swapped letters, or case. */
export function isSlip(name: string, other: string): boolean {
  if (Math.min(name.length, other.length) < 3) return false;
  const [left, right] = [name.toLowerCase(), other.toLowerCase()];
  if (distance(left, right) <= 1 || singular(left) === singular(right)) return true;
  const letters = (word: string) => [...word].sort().join("");
  return left.length > 3 && distance(left, right) === 2 && letters(left) === letters(right);
}

/** `retries` and `retrys` are the same word in two spellings. */
function singular(word: string): string {
  return word.replace(/(?:ies|ys)$/, "y");
}
