import { Writable } from "node:stream";
import * as winston from "winston";
import { createLogger, format, transports } from "winston";

const lines: string[] = [];
const stream = new Writable({
  write(chunk, _encoding, done) {
    lines.push(String(chunk).trim());
    done();
  },
});

const plain = format.printf(({ level, message, label }) => `${String(label)} ${level}: ${String(message)}`);

const logger: winston.Logger = createLogger({
  level: "info",
  format: format.combine(format.label({ label: "office" }), plain),
  transports: [new transports.Stream({ stream })],
});

function arrive(log: winston.Logger, vessel: string): void {
  log.info(`${vessel} entered`, { berth: 4 });
  log.debug("not shown");
  log.log("warn", "fog");
}

arrive(logger, "Curlew");
const child = logger.child({ part: "tides" });
child.error("silent gauge");
logger.on("finish", () => console.log(lines.join("\n")));
logger.end();
console.log(winston.config.npm.levels["warn"], logger.isLevelEnabled("debug"));
