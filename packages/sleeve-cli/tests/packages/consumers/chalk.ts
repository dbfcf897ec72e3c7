import chalk, { Chalk, type ChalkInstance, supportsColor } from "chalk";

const colours = new Chalk({ level: 1 });

function level(draw: ChalkInstance, metres: number): string {
  if (metres > 3) return draw.red.bold(`${metres} m`);
  return metres > 2 ? draw.yellow(metres, "m") : draw.hex("#00ff00")(`${metres} m`);
}

for (const metres of [1, 2.5, 4]) console.log(JSON.stringify(level(colours, metres)));
const heading = colours.underline.bgBlue;
console.log(JSON.stringify(heading("Tides")), JSON.stringify(colours.dim.italic("low")));
const plain = new Chalk({ level: 0 });
console.log(plain.green("plain"), plain.level, typeof supportsColor, typeof chalk.level);
