/** The gauge uses local time, an hour ahead of UTC. */
export function localTime(time: Date): string {
  return new Date(time.getTime() + 3_600_000).toISOString().slice(0, 16).replace("T", " ");
}
