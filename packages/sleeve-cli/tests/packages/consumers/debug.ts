import createDebug from "debug";
import type { Debugger } from "debug";

const lines: string[] = [];
createDebug.enable("office:*,-office:noise");
createDebug.formatters["k"] = (value: { knots: number }) => `${value.knots} kn`;

function channel(name: string): Debugger {
  const debug = createDebug(`office:${name}`);
  debug.log = (...parts: unknown[]) => lines.push(parts.map(String).join(" ").replace(/\+\d+ms/, "+"));
  return debug;
}

const tides = channel("tides");
const noise = channel("noise");
tides("station %s at %k", "quay", { knots: 12 });
noise("never");
const sub = tides.extend("bar");
console.log(sub.namespace, sub.enabled, noise.enabled);
console.log(createDebug.enabled("office:noise"), lines.length, lines[0]?.includes("12 kn"));
console.log(createDebug.disable());
