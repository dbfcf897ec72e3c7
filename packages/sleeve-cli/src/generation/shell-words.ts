/** Quotes a word that a shell would take apart or expand. */
export function shellWord(word: string): string {
  return PLAIN.test(word) ? word : `'${word.replaceAll("'", "'\\''")}'`;
}

const PLAIN = /^[\w@%+=:,./#-]+$/;

/** Returns the words of a command whose words are plain or in single quotes; `undefined` for any other. */
export function wordsInCommand(command: string): readonly string[] | undefined {
  const words: string[] = [];
  const pattern = /(?:'((?:[^']|'\\'')*)'|([\w@%+=:,./#-]+))(?: +|$)/y;
  while (pattern.lastIndex < command.length) {
    const [, quoted, plain] = pattern.exec(command) ?? [];
    const word = plain ?? quoted?.replaceAll("'\\''", "'");
    if (word === undefined) return undefined;
    words.push(word);
  }
  return words;
}
