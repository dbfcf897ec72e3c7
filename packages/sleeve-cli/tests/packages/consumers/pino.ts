import { Writable } from "node:stream";
import pino, { type Logger, type LoggerOptions } from "pino";

const lines: string[] = [];
const sink = new Writable({
  write(chunk: Buffer, _encoding, done) {
    lines.push(chunk.toString());
    done();
  },
});

const options: LoggerOptions = {
  level: "debug",
  base: null,
  timestamp: false,
  redact: { paths: ["pilot.phone"], censor: "hidden" },
  formatters: { level: (label) => ({ level: label }) },
};

function officeLogger(): Logger {
  return pino(options, sink);
}

function record(logger: Logger, vessel: string): void {
  const child = logger.child({ vessel });
  child.info({ berth: 4 }, "entered");
  if (child.isLevelEnabled("debug")) child.debug("draught %d", 4);
  child.error(new TypeError("no tug"));
}

const logger = officeLogger();
logger.info({ pilot: { name: "Ines", phone: "17" } }, "called");
record(logger, "Curlew");
logger.level = "error";
logger.warn("dropped");
logger.flush();
for (const line of lines) {
  const { level, msg, vessel, pilot } = JSON.parse(line);
  console.log(level, msg, vessel, pilot?.phone);
}
console.log(pino.levels.values["warn"], pino.stdTimeFunctions.nullTime());
