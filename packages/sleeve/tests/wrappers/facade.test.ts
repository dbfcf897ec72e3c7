import fc from "fast-check";
import { facade, OperationFailed, type Progress, Refusal, refuse, undoable } from "sleeve";
import { expect, test } from "vitest";

interface Parts {
  readonly notes: string[];
  act(name: string): Promise<string>;
}

function parts(failing: ReadonlySet<string> = new Set()): Parts {
  const notes: string[] = [];
  return {
    notes,
    async act(name) {
      notes.push(name);
      await null;
      if (failing.has(name)) throw new RangeError(`${name} broke`);
      return name.toUpperCase();
    },
  };
}

const office = (on: Parts, progress?: (progress: Progress) => void) =>
  facade(
    on,
    (operation) => ({
      admit: operation<{ readonly draught: number }>()
        .steps({
          tide: (parts) => parts.act("tide"),
          tugs: undoable(
            (parts) => parts.act("tugs"),
            (parts, tugs) => parts.act(`send back ${tugs}`),
          ),
        })
        .steps({
          berth: undoable(
            async (parts, { input, tugs }) =>
              input.draught > 9 ? refuse({ deepest: 9, tugs }) : parts.act("berth"),
            (parts) => parts.act("free berth"),
          ),
        })
        .steps({ notice: (parts, { berth }) => parts.act(`notice of ${berth}`) })
        .returns(({ berth, tugs }) => `${berth} with ${tugs}`),
      count: (parts, from: number) => from + parts.notes.length,
    }),
    progress ? { progress } : {},
  );

test("steps receive the input and earlier results, and steps of one stage run concurrently", async () => {
  const on = parts();
  const answer = await office(on).admit({ draught: 3 });
  expect(answer).toBe("BERTH with TUGS");
  expect(on.notes).toEqual(["tide", "tugs", "berth", "notice of BERTH"]);
  expect(office(on).count(10)).toBe(14);
});

test("a refusal stops, undoes completed steps, and is returned with its reason", async () => {
  const on = parts();
  const answer = await office(on).admit({ draught: 10 });
  if (!(answer instanceof Refusal)) throw new Error("not refused");
  const reason: { readonly deepest: number } = answer.reason;
  expect([reason, answer.step, answer.undone]).toEqual([{ deepest: 9, tugs: "TUGS" }, "berth", ["tugs"]]);
  expect(on.notes).toEqual(["tide", "tugs", "send back TUGS"]);
});

test("a failure undoes in reverse order, and reports what could not be undone", async () => {
  const on = parts(new Set(["notice of BERTH", "send back TUGS"]));
  const failure = await office(on)
    .admit({ draught: 3 })
    .catch((error: unknown) => error);
  expect(failure).toBeInstanceOf(OperationFailed);
  expect(failure).toMatchObject({
    code: "OPERATION_FAILED",
    step: "notice",
    cause: { message: "notice of BERTH broke" },
    undone: ["berth"],
    notUndone: [{ step: "tugs", error: { message: "send back TUGS broke" } }],
    message:
      "The operation admit failed in step notice: notice of BERTH broke. Undone: berth. " +
      "Not undone, to be corrected manually: tugs.",
  });
  expect(on.notes.slice(-2)).toEqual(["free berth", "send back TUGS"]);
});

test("a step beside a failing one is awaited, and undone", async () => {
  const on = parts(new Set(["tide"]));
  await expect(office(on).admit({ draught: 3 })).rejects.toMatchObject({ step: "tide", undone: ["tugs"] });
  expect(on.notes).toEqual(["tide", "tugs", "send back TUGS"]);
});

test("progress reports each step and its duration, and a listener that throws breaks nothing", async () => {
  const reported: Progress[] = [];
  const seen: Progress[] = [];
  const on = parts();
  await office(on, (progress) => reported.push(progress)).admit(
    { draught: 10 },
    { progress: (progress) => seen.push(progress) },
  );
  expect(reported.map(({ step, status }) => `${step} ${status}`)).toEqual([
    "tide started",
    "tugs started",
    "tide done",
    "tugs done",
    "berth started",
    "berth refused",
    "tugs undone",
  ]);
  expect(reported.every(({ milliseconds, operation }) => milliseconds >= 0 && operation === "admit")).toBe(
    true,
  );
  expect(seen).toEqual(reported);
  const broken = office(parts(), () => {
    throw new Error("a broken listener");
  });
  expect(await broken.admit({ draught: 3 })).toBe("BERTH with TUGS");
});

test("an aborted signal ends the operation before its next steps, and undoes", async () => {
  const on = parts();
  const controller = new AbortController();
  const admitted = office(on).admit(
    { draught: 3 },
    {
      signal: controller.signal,
      progress: ({ step, status }) => {
        if (step === "berth" && status === "started") controller.abort(new Error("the vessel turned back"));
      },
    },
  );
  await expect(admitted).rejects.toMatchObject({ step: undefined, undone: ["berth", "tugs"] });
  await expect(admitted).rejects.toThrow("was aborted: the vessel turned back");
});

test("an operation undoes exactly the completed steps, in reverse order, wherever it fails", async () => {
  const names = ["a", "b", "c", "d", "e"] as const;
  await fc.assert(
    fc.asyncProperty(fc.nat(5), fc.boolean(), fc.subarray([...names]), async (breaking, refuses, stuck) => {
      const done: string[] = [];
      const undone: string[] = [];
      const step = (name: string, index: number) =>
        undoable(
          async () => {
            if (index === breaking && refuses) return refuse(name);
            if (index === breaking) throw new RangeError(name);
            done.push(name);
            return name;
          },
          async () => {
            undone.push(name);
            if ((stuck as string[]).includes(name)) throw new Error("stuck");
          },
        );
      const { go } = facade({}, (operation) => ({
        go: operation()
          .steps({ a: step("a", 0) })
          .steps({ b: step("b", 1) })
          .steps({ c: step("c", 2) })
          .steps({ d: step("d", 3) })
          .steps({ e: step("e", 4) }),
      }));
      const answer: unknown = await go().catch((error: unknown) => error);
      expect(done).toEqual(names.slice(0, breaking));
      if (breaking === 5) {
        expect(answer).toMatchObject({ a: "a", e: "e" });
        return;
      }
      expect(undone).toEqual([...done].reverse());
      expect(answer).toBeInstanceOf(refuses ? Refusal : OperationFailed);
      const { undone: reported, notUndone } = answer as OperationFailed;
      expect([...reported, ...notUndone.map((notUndone) => notUndone.step)].sort()).toEqual([...done].sort());
      expect(notUndone.map((notUndone) => notUndone.step)).toEqual(
        undone.filter((name) => (stuck as string[]).includes(name)),
      );
    }),
  );
});
