import {
  access,
  adapter,
  bridge,
  cached,
  decorate,
  explain,
  facade,
  guard,
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
/** As JavaScript, which no compiler looks at, would let it pass. */
const wrong = (value: unknown) => value as never;

const mistakes: Readonly<Record<string, readonly [string, RegExp, () => unknown]>> = {
  "nothing to decorate": ["NO_SUBJECT", /^decorate\(…, logging\) was given undefined where its subject should be/, () => decorate(wrong(undefined), logging())],
  "a number to decorate": ["NOT_AN_OBJECT", /was given a number where its subject should be/, () => decorate(wrong(4))],
  "a layer that was not made": ["BAD_OPTION", /^the function logging was given where a layer should be. Give what makes a layer when it is called/, () => decorate(bell, wrong(logging))],
  "no layer": ["BAD_OPTION", /^undefined was given where a layer should be/, () => stack(wrong(undefined))],
  "a layer on members that are not there": ["NO_SUCH_MEMBER", /told to keep to "rnig", which the subject does not have. It has: ring/, () => decorate(bell, wrong(logging({ only: wrong(["rnig"]) })))],
  "no check": ["BAD_OPTION", /^access: may is undefined. Give a function/, () => access(wrong(undefined))],
  "a rule that is none": ["BAD_OPTION", /^guard: 24 is no check. Give a predicate, a range or a schema/, () => guard<typeof bell>(wrong({ ring: { times: 24 } }))],
  "a store without its methods": ["BAD_OPTION", /^cached: store.add is undefined. Give a function/, () => cached({ only: ["ring"], ttl: "1m", name: "bell", store: wrong({ get: async () => null }) })],
  "a deadline that is none": ["BAD_OPTION", /^limited: deadline is "soon", which is no length of time/, () => limited({ timeout: wrong("soon") })],
  "a mapping that is none": ["BAD_MAPPING", /^The adapter of nothing was given undefined where its mapping should be/, () => adapter<typeof bell, typeof bell>(wrong(undefined))],
  "a proxy of nothing": ["NO_SUBJECT", /^proxy\(create\) was given undefined where its subject should be/, () => proxy<typeof bell>(() => wrong(undefined), { surface: { ring: "method" } }).ring()],
  "a proxy that cannot make anything": ["BAD_OPTION", /^proxy: create is \[object Object\]. Give a function/, () => proxy(wrong(bell))],
  "a bridge to nothing": ["NO_SUBJECT", /^The bridge's "brass" was given undefined/, () => bridge<typeof bell>({ brass: () => wrong(undefined) }, { start: "brass", surface: { ring: "method" } }).port.ring()],
  "an operation that is none": ["BAD_OPTION", /^The facade's ring is ding. Make it an operation with steps, or a function/, () => facade({ bell }, () => wrong({ ring: "ding" }))],
  "a step that is none": ["BAD_OPTION", /^The step chime of ring is 4. Make it a function, or undoable/, () => facade({ bell }, (operation) => ({ ring: operation().steps({ chime: wrong(4) }) }))],
  "two steps of one name": ["BAD_OPTION", /^ring has two things called chime. Name the step otherwise/, () => facade({ bell }, (operation) => ({ ring: operation().steps({ chime: () => 1 }).steps({ chime: () => 2 }) }))],
  "a step that is called as the input is": ["BAD_OPTION", /^ring has two things called input/, () => facade({ bell }, (operation) => ({ ring: operation().steps({ input: () => 1 }) }))],
  "a member to override that does not exist": ["NO_SUCH_MEMBER", /override was given rnig, but an object has no such member to replace/, () => override(bell, () => wrong({ rnig: () => "" }))],
  "nothing to explain": ["NO_SUBJECT", /^explain was given null/, () => explain(wrong(null))],
}; // biome-ignore format: rows

describe("a mistake is told in one sentence, with its place and what to do next", () => {
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

test("a bridge that is told to use nothing goes on with what it has", async () => {
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
