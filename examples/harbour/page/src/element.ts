/** Returns an element of the page, which must exist. */
export function element<Kind extends HTMLElement>(id: string, kind: abstract new () => Kind): Kind {
  const found = document.getElementById(id);
  if (found instanceof kind) return found;
  throw new Error(`The page has no ${kind.name} called ${id}.`);
}
