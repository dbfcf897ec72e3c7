import { type Check, check, contractChecks } from "../check.ts";
import { type Context, contextOf } from "../context.ts";
import { endOf } from "../end.ts";
import type { Finding } from "../finding.ts";
import { type Given, implementationOf, lend, untyped, type Waived, type Wrapper } from "../implementation.ts";
import { macrotask, type PlayTerms, type Seen } from "../play.ts";
import { type Spied, spyOn } from "../spy.ts";
import { callOf, reachedBy, type Trial, trialsOf } from "./trial.ts";

/** A bridge as the checks need it: what the client uses, and the way to change the implementation behind it. */
export interface Bridging<Target> {
  readonly port: Target;
  use(name: string): unknown;
}

export interface BridgeOfOptions<Target, Made extends Readonly<Record<string, object>>> {
  /** Makes each implementation, by name. */
  readonly implementations: { readonly [Name in keyof Made]: Given<Made[Name]> };
  /** Makes the bridge over implementations that were made. What `bridge` of this library gives is one. */
  readonly wrap: (made: Made) => Bridging<Target> | Promise<Bridging<Target>>;
  readonly release?: (port: Target) => unknown;
  readonly waives?: Waived;
}

/**
 * An implementation that is a bridge. The whole contract has to hold with each of the implementations in use, and no call may
 * be lost, made twice or sent elsewhere while they are changed.
 */
export function bridgeOf<Target extends object, Made extends Readonly<Record<string, object>>>(
  options: BridgeOfOptions<Target, Made>,
): Wrapper<Target> {
  const bridges = new Bridges(options);
  const { waives, wrap } = options;
  const implementation = bridges.using(undefined);
  return {
    kind: "bridge",
    ...(waives && { waives }),
    ...implementation,
    checks: (context) => bridges.checks(context),
    altered: (change) =>
      bridgeOf<Target, Made>({
        ...options,
        wrap: async (made) => {
          const bridging = await wrap(made);
          return { port: change(bridging.port) as Target, use: (each) => bridging.use(each) };
        },
      }),
  };
}

class Bridges<Target extends object, Made extends Readonly<Record<string, object>>> {
  readonly #options: BridgeOfOptions<Target, Made>;
  readonly #names: readonly string[];

  constructor(options: BridgeOfOptions<Target, Made>) {
    this.#options = options;
    this.#names = Object.keys(options.implementations);
  }

  /** The bridge as an implementation, with one of its own in use. */
  using(name: string | undefined) {
    const made = new WeakMap<object, Readonly<Record<string, object>>>();
    return {
      create: async (): Promise<Target> => {
        const own = await this.#made();
        const bridging = await this.#options.wrap(own as Made);
        made.set(bridging.port, own);
        if (name !== undefined) await bridging.use(name);
        return bridging.port;
      },
      release: async (port: Target): Promise<void> => {
        await this.#options.release?.(port);
        for (const [each, own] of Object.entries(made.get(port) ?? {}))
          await implementationOf(this.#given(each)).release?.(own);
      },
    };
  }

  checks(context: Context<object>): readonly Check[] {
    const { contract, runs, length, seed, deadline, isConcurrent, coverage } = context;
    const options = { runs, length, seed, deadline, isConcurrent };
    const ofEach = this.#names.flatMap((name) =>
      contractChecks(contextOf<object>(contract, untyped<Target>(this.using(name)), options, coverage)).map(
        (each) => ({
          ...each,
          name: `${name}: ${each.name}`,
        }),
      ),
    );
    return [
      ...ofEach,
      check("reaches the implementation in use, once", () => this.#reachFindings(context)),
      check("loses no call while implementations are changed", () => this.#swapFindings(context)),
    ];
  }

  async #reachFindings(context: Context<object>): Promise<readonly Finding[]> {
    const findings: Finding[] = [];
    for (const name of this.#names) {
      for (const trial of this.#distinct(await this.#trials(context, name))) {
        const found = await this.#spied(async (bridging, spies) => {
          await bridging.use(name);
          for (const each of Object.values(spies)) each.reached.length = 0;
          await callOf(bridging.port, trial.operation, trial.args, context).outcome;
          return Object.entries(spies)
            .filter(([, { reached }]) => reached.length > 0)
            .map(([each]) => each);
        });
        const elsewhere = found.find((each) => each !== name);
        if (elsewhere === undefined && found.length > 0) continue;
        findings.push({
          name: "swap",
          place: trial.operation.label,
          expected: `a call that reaches ${name}, which is in use`,
          found: elsewhere === undefined ? "a call that reached none" : `a call that reached ${elsewhere}`,
          remedy: "Ask which implementation is in use at each call.",
        });
      }
    }
    return findings;
  }

  async #swapFindings(context: Context<object>): Promise<readonly Finding[]> {
    const [first = "", second = first] = this.#names;
    const findings: Finding[] = [];
    for (const trial of this.#distinct(await this.#trials(context, first))) {
      if (trial.hint.status === "threw" || trial.hint.status === "unsettled") continue;
      const finding = await this.#swapped(trial, [second, first], context);
      if (finding) findings.push(finding);
    }
    return findings;
  }

  /** Makes calls and changes without waiting for either, and looks whether each call reached one implementation and ended there. */
  #swapped(trial: Trial, names: readonly string[], terms: PlayTerms): Promise<Finding | undefined> {
    const { operation, args, hint } = trial;
    return this.#spied(async (bridging, spies) => {
      const answers: { readonly answer: number }[] = [];
      const settles: (() => void)[] = [];
      const isLater = hint.status !== "returned";
      for (const spy of Object.values(spies)) {
        spy.reached.length = 0;
        spy.script = ({ key }, real) => {
          if (key !== operation.key) return real();
          const answer = { answer: answers.push({ answer: answers.length }) };
          return isLater ? new Promise((resolve) => settles.push(() => resolve(answer))) : answer;
        };
      }
      const called = [];
      const changes: unknown[] = [];
      for (let turn = 0; turn < 6; turn += 1) {
        called.push(callOf(bridging.port, operation, args, terms));
        changes.push(bridging.use(names[turn % names.length] ?? ""));
        if (turn === 3) await macrotask();
      }
      await macrotask();
      for (const each of settles) each();
      await macrotask();
      for (const each of settles) each();
      const outcomes = await Promise.all(called.map(({ outcome }) => outcome));
      await endOf(Promise.allSettled(changes), terms.deadline);
      const reached = Object.values(spies).reduce(
        (total, spy) => total + reachedBy(spy, operation).length,
        0,
      );
      return swapFinding(operation.label, called.length, reached, outcomes);
    });
  }

  async #trials(context: Context<object>, name: string): Promise<readonly Trial[]> {
    return trialsOf(
      { subject: untyped<Target>(this.using(name)), wrap: (each) => each, release: undefined },
      context,
    );
  }

  #distinct(trials: readonly Trial[]): readonly Trial[] {
    const good = trials.filter(({ hint }) => hint.status === "returned" || hint.status === "resolved");
    return good.filter(
      ({ operation }, index) =>
        good.findIndex((each) => each.operation === operation) === index && operation.key !== "use",
    );
  }

  #spied<Result>(
    use: (bridging: Bridging<Target>, spies: Readonly<Record<string, Spied<object>>>) => Promise<Result>,
  ): Promise<Result> {
    return lend({ create: () => this.#made() }, async (own) => {
      const spies = Object.fromEntries(Object.entries(own).map(([name, each]) => [name, spyOn(each)]));
      const subjects = Object.fromEntries(
        Object.entries(spies).map(([name, { subject }]) => [name, subject]),
      );
      const bridging = await this.#options.wrap(subjects as Made);
      try {
        return await use(bridging, spies);
      } finally {
        for (const spy of Object.values(spies)) spy.end();
        await this.#options.release?.(bridging.port);
        for (const [name, each] of Object.entries(own))
          await implementationOf(this.#given(name)).release?.(each);
      }
    });
  }

  async #made(): Promise<Readonly<Record<string, object>>> {
    const made: Record<string, object> = {};
    for (const name of this.#names) made[name] = await implementationOf(this.#given(name)).create();
    return made;
  }

  #given(name: string): Given<object> {
    return untyped(this.#options.implementations[name] as Given<object>);
  }
}

function swapFinding(
  place: string,
  calls: number,
  reached: number,
  outcomes: readonly Seen[],
): Finding | undefined {
  const remedy = "Let calls end where they began, and change for those that follow.";
  const finding = (found: string): Finding => ({
    name: "swap",
    place,
    expected: `each of ${calls} calls to reach one implementation, and to end there`,
    found,
    remedy,
  });
  if (reached !== calls) return finding(`${reached} calls that reached one`);
  const failed = outcomes.filter(({ status }) => status !== "returned" && status !== "resolved").length;
  if (failed > 0) return finding(`${failed} of them without an answer`);
  const given = outcomes.flatMap(({ raw }) =>
    raw && typeof raw === "object" && "answer" in raw ? [raw.answer] : [],
  );
  return given.length > 0 && new Set(given).size !== calls ? finding("an answer that came twice") : undefined;
}
