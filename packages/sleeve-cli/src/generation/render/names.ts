/** Returns each name once, and each that is taken with a number. */
export function freshNames(taken: readonly string[]): (name: string) => string {
  const names = new Set(taken);
  const byPurpose = new Map<string, string>();
  return (purpose) => {
    let name = byPurpose.get(purpose);
    if (name !== undefined) return name;
    name = purpose;
    for (let count = 2; names.has(name); count++) name = `${purpose}${count}`;
    names.add(name);
    byPurpose.set(purpose, name);
    return name;
  };
}
