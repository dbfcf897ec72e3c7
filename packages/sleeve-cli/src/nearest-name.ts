/** Returns the most similar known name, if it is close enough to be a typing error. */
export function nearestName(name: string, known: readonly string[]): string | undefined {
  const ranked = known
    .map((entry) => ({ each: entry, distance: editDistance(name.toLowerCase(), entry.toLowerCase()) }))
    .sort((left, right) => left.distance - right.distance);
  const [best] = ranked;
  return best && best.distance <= (name.length < 4 ? 1 : Math.max(2, Math.floor(name.length / 3)))
    ? best.each
    : undefined;
}

/** Number of insertions, removals and replacements (Levenshtein, 1966). */
function editDistance(from: string, to: string): number {
  let row = Array.from({ length: to.length + 1 }, (_, index) => index);
  for (let at = 1; at <= from.length; at++) {
    const next = [at];
    for (let other = 1; other <= to.length; other++) {
      const replaced = (row[other - 1] as number) + (from[at - 1] === to[other - 1] ? 0 : 1);
      next.push(Math.min((row[other] as number) + 1, (next[other - 1] as number) + 1, replaced));
    }
    row = next;
  }
  return row[to.length] as number;
}

/** Whether two names differ by a typing error: one letter, two swapped letters, or case. */
export function isSlip(name: string, other: string): boolean {
  if (Math.min(name.length, other.length) < 3) return false;
  const [left, right] = [name.toLowerCase(), other.toLowerCase()];
  if (editDistance(left, right) <= 1) return true;
  const letters = (word: string) => [...word].sort().join("");
  return left.length > 3 && editDistance(left, right) === 2 && letters(left) === letters(right);
}
