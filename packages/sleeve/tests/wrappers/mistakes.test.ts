import {
  access,
  adapter,
  bridge,
  cached,
  decorate,
  decorateClass,
  explain,
  facade,
  guard,
  layer,
  limited,
  logging,
  override,
  proxy,
  SleeveError,
  stack,
  timing,
} from "sleeve";
import { describe, expect, test } from "vitest";

const bell = { ring: () => "ding" };
/** As in JavaScript, without a compiler. */
const wrong = (value: unknown) => value as never;

const mistakes: Readonly<Record<string, readonly [string, RegExp, () => unknown]>> = {
  "nothing to decorate": ["NO_SUBJECT", /^decorate\(…, logging\): the subject is undefined\. Create the subject/, () => decorate(wrong(undefined), logging())],
  "a number to decorate": ["NOT_AN_OBJECT", /^decorate\(…\): the subject is a number; only objects/, () => decorate(wrong(4))],
  "an array without open forwarding": ["NEEDS_OPEN", /^The subject is an array, whose elements change, and needs open forwarding\. Add a layer: decorate\(list, open\(\), …\)\./, () => decorate([bell])],
  "a class for decorate": ["NEEDS_CLASS", /^decorate: the subject is the class Winch\. Use decorateClass\(Winch, …\)\.$/, () => decorate(class Winch {}, logging())],
  "an object for decorateClass": ["NOT_A_CLASS", /^decorateClass: the subject is an object, and not a class\. Use decorate\(…\)\.$/, () => decorateClass(wrong(bell))],
  "binary data without open forwarding": ["NEEDS_OPEN", /^The subject is a typed array/, () => decorate(new Uint8Array(2), logging())],
  "a layer that chooses the forwarding": ["BAD_OPTION", /Use stack\(open\(\), yourLayer\)/, () => layer("own", {}, wrong({ forwarding: "open" }))],
  "a layer that was not made": ["BAD_OPTION", /^Expected a layer, received the function logging\. Pass the result of a layer function/, () => decorate(bell, wrong(logging))],
  "no layer": ["BAD_OPTION", /^Expected a layer, received undefined/, () => stack(wrong(undefined))],
  "a layer on members that are not there": ["NO_SUCH_MEMBER", /restricted to "rnig", which the subject does not have\. Its members: ring/, () => decorate(bell, wrong(logging({ only: wrong(["rnig"]) })))],
  "no check": ["BAD_OPTION", /^access: may is undefined\. Pass a function/, () => access(wrong(undefined))],
  "a rule that is none": ["BAD_OPTION", /^guard: 24 is not a check\. Pass a predicate, a range or a schema/, () => guard<typeof bell>(wrong({ ring: { times: 24 } }))],
  "a store without its methods": ["BAD_OPTION", /^cached: store.add is undefined\. Pass a function/, () => cached({ only: ["ring"], ttl: "1m", name: "bell", store: wrong({ get: async () => null }) })],
  "an invalid timeout": ["BAD_OPTION", /^limited: timeout is "soon", which is not a duration/, () => limited({ timeout: wrong("soon") })],
  "a mapping that is none": ["BAD_MAPPING", /^The adapter of nothing has the mapping undefined/, () => adapter<typeof bell, typeof bell>(wrong(undefined))],
  "a proxy of nothing": ["NO_SUBJECT", /^proxy\(create\): the subject is undefined/, () => proxy<typeof bell>(() => wrong(undefined), { surface: { ring: "method" } }).ring()],
  "a proxy that cannot make anything": ["BAD_OPTION", /^proxy: create is an object\. Pass a function/, () => proxy(wrong(bell))],
  "a bridge to nothing": ["NO_SUBJECT", /^The bridge's "brass": the subject is undefined/, () => bridge<typeof bell>({ brass: () => wrong(undefined) }, { start: "brass", surface: { ring: "method" } }).port.ring()],
  "an operation that is none": ["BAD_OPTION", /^The facade's member ring is ding\. Pass an operation with steps, or a function/, () => facade({ bell }, () => wrong({ ring: "ding" }))],
  "a step that is none": ["BAD_OPTION", /^The step chime of ring is 4\. Pass a function, or undoable/, () => facade({ bell }, (operation) => ({ ring: operation().steps({ chime: wrong(4) }) }))],
  "two steps of one name": ["BAD_OPTION", /^ring has two steps named chime\. Rename one/, () => facade({ bell }, (operation) => ({ ring: operation().steps({ chime: () => 1 }).steps({ chime: () => 2 }) }))],
  "a step that is called as the input is": ["BAD_OPTION", /^ring has two steps named input/, () => facade({ bell }, (operation) => ({ ring: operation().steps({ input: () => 1 }) }))],
  "a member to override that does not exist": ["NO_SUCH_MEMBER", /^override: an object has no member rnig to replace/, () => override(bell, () => wrong({ rnig: () => "" }))],
  "nothing to explain": ["NO_SUBJECT", /^explain: the subject is null/, () => explain(wrong(null))],
}; // biome-ignore format: rows

describe("a mistake is reported in one sentence, with its place and the next step", () => {
  test.each(Object.entries(mistakes))("%s", (_, [code, message, make]) => {
    let thrown: unknown;
    try {
      make();
    } catch (error) {
      thrown = error;
    }
    expect(thrown).toBeInstanceOf(SleeveError);
    expect(thrown).toMatchObject({ code });
    expect((thrown as Error).message).toMatch(message);
  });
});

test("a bridge that switches to nothing keeps its implementation", async () => {
  const channel = bridge<typeof bell>({ brass: bell, none: () => wrong(undefined) }, { start: "brass" });
  await expect(channel.use("none")).rejects.toMatchObject({ code: "NO_SUBJECT" });
  expect([channel.current, channel.port.ring()]).toEqual(["brass", "ding"]);
});

test("a module is decorated like any other object", async () => {
  const members: string[] = [];
  const module = await import("node:path/posix");
  const path = decorate(module, timing({ onSample: ({ member }) => members.push(member) }));
  expect([path.join("a", "b"), path.sep]).toEqual(["a/b", "/"]);
  expect(members).toEqual(["join"]);
});
