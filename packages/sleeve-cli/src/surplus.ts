/** Returns the values whose keys occur more often than among the known ones. */
export function surplusOf<Value>(
  values: readonly Value[],
  known: readonly string[],
  keyOf: (value: Value) => string,
): readonly Value[] {
  const left = new Map<string, number>();
  for (const key of known) left.set(key, (left.get(key) ?? 0) + 1);
  return values.filter((value) => {
    const count = left.get(keyOf(value)) ?? 0;
    left.set(keyOf(value), count - 1);
    return count <= 0;
  });
}
