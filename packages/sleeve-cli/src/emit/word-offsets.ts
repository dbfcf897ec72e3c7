/** A word of source: a name, a keyword, a number, or a word of a text or comment. */
const WORD = /[\p{ID_Continue}$]+/gu;

/**
 * Returns the offset in a text that an offset in its formatted form comes from. Formatting keeps all words, so the words before
 * it are counted.
 */
export function originIn(text: string, formattedText: string, offset: number): number {
  let count = 0;
  let into = 0;
  for (const { 0: word, index } of formattedText.matchAll(WORD)) {
    if (index > offset) break;
    count++;
    into = Math.min(offset - index, word.length - 1);
  }
  for (const { index } of text.matchAll(WORD)) if (--count === 0) return index + into;
  return 0;
}
