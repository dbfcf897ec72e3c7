import { PassThrough } from "node:stream";
import { Command } from "commander";
import { EventEmitter } from "eventemitter3";
import { XMLBuilder, XMLParser } from "fast-xml-parser";
import { deep, type Layer, logging, open, timing } from "sleeve";
import { describe, expect, test } from "vitest";
import { z } from "zod";
import { decorateAny as decorate } from "../decorate-any.ts";

const silent = { info: () => {}, error: () => {} };
const stacks: Readonly<Record<string, () => Layer[]>> = {
  "no layers": () => [],
  "logging and timing": () => [logging({ logger: silent }), timing({ onSample: () => {} })],
  "open forwarding": () => [open()],
  "deep forwarding, logged": () => [deep(), logging({ logger: silent })],
};

type Wrap = <Subject extends object>(subject: Subject) => Subject;

/** Programs with classes of popular packages. The results must be equal when the objects or the class are wrapped. */
const works: Readonly<Record<string, (objects: Wrap, classes: Wrap) => unknown>> = {
  "a command line": async (objects, classes) => {
    const reported: unknown[] = [];
    const program = objects(new (classes(Command))())
      .name("office")
      .exitOverride()
      .configureOutput({ writeOut: (text) => reported.push(text), writeErr: (text) => reported.push(text) })
      .option("-a, --all", "all of them")
      .argument("<vessel>");
    program.action((vessel, options) => void reported.push([vessel, options.all]));
    const sub = program.command("berths").description("all berths");
    await program.parseAsync(["node", "office", "--all", "Marigold"]);
    const code = await program.parseAsync(["node", "office", "--help"]).catch((error) => error.code);
    return [reported, code, program.args, program.opts(), sub.name(), program.commands.length];
  },
  "an event emitter": (objects, classes) => {
    const bell = objects(new (classes(EventEmitter))());
    const heard: unknown[] = [];
    const listener = (...values: unknown[]) => heard.push(values);
    const chained = bell.on("ring", listener).once("ring", listener) === bell;
    return [chained, bell.emit("ring", 1), bell.off("ring", listener).emit("ring", 2), heard, bell.listenerCount("ring"), bell.eventNames()];
  },
  "an XML parser": (objects, classes) => {
    const form = { ignoreAttributes: false, attributeNamePrefix: "" };
    const read = objects(new (classes(XMLParser))(form)).parse('<berths><berth no="1"/><berth no="2">Tern</berth></berths>');
    return [read, objects(new (classes(XMLBuilder))(form)).build(read)];
  },
  "a schema": async (objects) => {
    const schema = objects(z.object({ berth: z.number().int().max(24), vessel: z.string().optional() }));
    const bad = schema.safeParse({ berth: 25 });
    return [schema.parse({ berth: 4 }), bad.success, bad.error?.issues.map(({ path }) => path), await schema.parseAsync({ berth: 3, vessel: "Tern" }), schema.partial().parse({}), objects(z.string()).array().parse(["a"])];
  },
  "a stream": async (objects, classes) => {
    const stream = objects(new (classes(PassThrough))({ objectMode: true }));
    stream.write({ height: 4 });
    stream.end({ height: 5 });
    const seen: unknown[] = [];
    for await (const item of stream) seen.push(item);
    return [seen, stream.readableEnded, stream.writable];
  },
  "search parameters, headers and an abort": (objects, classes) => {
    const search = objects(new (classes(URLSearchParams))("a=1"));
    search.append("b", "2");
    const headers = objects(new (classes(Headers))({ a: "1" }));
    headers.append("a", "2");
    const controller = objects(new (classes(AbortController))());
    let aborted = 0;
    controller.signal.addEventListener("abort", () => aborted++);
    controller.abort("enough");
    return [[...search], String(search), [...headers], headers.get("a"), aborted, controller.signal.reason];
  },
}; // biome-ignore format: rows

const itself: Wrap = (subject) => subject;

describe.each(Object.entries(stacks))(
  "with %s, other people's classes do their work as ever",
  (_, layers) => {
    const wrap = ((subject: object) => decorate(subject, ...layers())) as Wrap;

    test.each(Object.entries(works))("%s", async (_, work) => {
      const expected = await work(itself, itself);
      expect(await work(wrap, itself)).toEqual(expected);
      expect(await work(itself, wrap)).toEqual(expected);
      expect(await work(wrap, wrap)).toEqual(expected);
    });
  },
);

test("every case is listed", () => {
  expect([Object.keys(stacks).length, Object.keys(works).length]).toEqual([4, 6]);
});
