import { paired, pairedInTime } from "../../paired.mjs";
import { rows as creation } from "../rows/creation.mjs";
import { rows as forwarding } from "../rows/forwarding.mjs";
import { rows as layers } from "../rows/layers.mjs";
import { rows as open } from "../rows/open.mjs";
import { rows as stacks } from "../rows/stacks.mjs";
import { rows as wrappers } from "../rows/wrappers.mjs";

const ROWS = { ...forwarding, ...layers, ...stacks, ...open, ...wrappers, ...creation };

/** The rows that are measured by time. */
export function names() {
  return Object.entries(ROWS)
    .filter(([, { make, isOfNode }]) => make && !isOfNode)
    .map(([name, { against }]) => ({ name, against }));
}

export async function measure(name, turns) {
  const { make, isAsync = false } = ROWS[name];
  const [measured, baseline] = await make();
  return isAsync ? pairedInTime(measured, baseline, turns) : paired(measured, baseline, turns);
}

/** Parses and runs a bundle, each time as a new script, against a comment of the same size. */
export async function start(library, turns) {
  const comment = `/*${"x".repeat(library.length - 4)}*/`;
  const load = (code) => () =>
    import(/* @vite-ignore */ URL.createObjectURL(new Blob([code], { type: "text/javascript" })));
  return pairedInTime(load(library), load(comment), { ...turns, least: 0 });
}
