/** Whether two texts import the same modules in the same order. May return `false` too often. */
export function hasSameImports(before: string, after: string): boolean {
  const importsOf = (text: string) => [...text.matchAll(IMPORTS)].map(([, specifier]) => specifier).join();
  return importsOf(before) === importsOf(after);
}

const IMPORTS = /\b(?:from|import|require|types|path|module)\b\s*[(=]?\s*["']([^"']*)["']/g;
