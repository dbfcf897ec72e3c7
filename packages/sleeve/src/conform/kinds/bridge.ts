import { check, contractChecks } from "../checks/contract-checks.ts";
import { contextOf } from "../context.ts";
import { withTimeout } from "../execution/timeout.ts";
import type { Finding } from "../finding.ts";
import { implementationOf, untyped, withImplementation } from "../implementation.ts";
import { macrotask, type PlayTerms, type StepOutcome } from "../sequences/sequence-run.ts";
import type { Context, ContractCheck, ImplementationInput, Suppressions, Wrapper } from "../types.ts";
import { callOf, type Probe, probesOf, reachedBy } from "./probe.ts";
import { type Spied, spyOn } from "./spy.ts";

/**
 * A bridge as the checks need it: the port that clients use, and the function that switches implementations.
 */
export interface BridgeHandle<Target> {
  readonly port: Target;
  use(name: string): unknown;
}

export interface BridgeOfOptions<Target, Made extends Readonly<Record<string, object>>> {
  /** Factories of the implementations, by name. */
  readonly implementations: { readonly [Name in keyof Made]: ImplementationInput<Made[Name]> };
  /** Creates the bridge over implementations. The result of this library's `bridge` fits. */
  readonly wrap: (made: Made) => BridgeHandle<Target> | Promise<BridgeHandle<Target>>;
  readonly release?: (port: Target) => unknown;
  readonly suppressions?: Suppressions;
}

/**
 * Declares an implementation to be a bridge. The contract must hold with each implementation active, and no
 * call may be lost, duplicated or misdirected while they are switched.
 */
export function bridgeOf<Target extends object, Made extends Readonly<Record<string, object>>>(
  options: BridgeOfOptions<Target, Made>,
): Wrapper<Target> {
  const bridges = new Bridges(options);
  const { suppressions, wrap } = options;
  const implementation = bridges.using(undefined);
  return {
    kind: "bridge",
    ...(suppressions && { suppressions }),
    ...implementation,
    checks: (context) => bridges.checks(context),
    altered: (change) =>
      bridgeOf<Target, Made>({
        ...options,
        wrap: async (instance) => {
          const bridging = await wrap(instance);
          return { port: change(bridging.port) as Target, use: (name) => bridging.use(name) };
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

  /** Returns the bridge as an implementation, with one of its own active. */
  using(name: string | undefined) {
    const instance = new WeakMap<object, Readonly<Record<string, object>>>();
    return {
      create: async (): Promise<Target> => {
        const own = await this.#made();
        const bridging = await this.#options.wrap(own as Made);
        instance.set(bridging.port, own);
        if (name !== undefined) await bridging.use(name);
        return bridging.port;
      },
      release: async (port: Target): Promise<void> => {
        await this.#options.release?.(port);
        for (const [name, own] of Object.entries(instance.get(port) ?? {}))
          await implementationOf(this.#given(name)).release?.(own);
      },
    };
  }

  checks(context: Context<object>): readonly ContractCheck[] {
    const { contract, runs, length, seed, timeout, isConcurrent, coverage } = context;
    const options = { runs, length, seed, timeout, isConcurrent };
    const ofEach = this.#names.flatMap((name) =>
      contractChecks(contextOf<object>(contract, untyped<Target>(this.using(name)), options, coverage)).map(
        (check) => ({
          ...check,
          name: `${name}: ${check.name}`,
        }),
      ),
    );
    return [
      ...ofEach,
      check("reaches the active implementation, once", () => this.#reachFindings(context)),
      check("loses no call while implementations are switched", () => this.#swapFindings(context)),
    ];
  }

  async #reachFindings(context: Context<object>): Promise<readonly Finding[]> {
    const findings: Finding[] = [];
    for (const name of this.#names) {
      for (const probe of this.#distinct(await this.#probes(context, name))) {
        const finding = await this.#spied(async (bridging, spies) => {
          await bridging.use(name);
          for (const spied of Object.values(spies)) spied.calls.length = 0;
          await callOf(bridging.port, probe.operation, probe.args, context).outcome;
          return Object.entries(spies)
            .filter(([, { calls }]) => calls.length > 0)
            .map(([name]) => name);
        });
        const elsewhere = finding.find((match) => match !== name);
        if (elsewhere === undefined && finding.length > 0) continue;
        findings.push({
          name: "swap",
          place: probe.operation.label,
          expected: `a call that reaches ${name}, the active implementation`,
          found: elsewhere === undefined ? "a call that reached none" : `a call that reached ${elsewhere}`,
          remedy: "Look up the active implementation at each call.",
        });
      }
    }
    return findings;
  }

  async #swapFindings(context: Context<object>): Promise<readonly Finding[]> {
    const [startName = "", second = startName] = this.#names;
    const findings: Finding[] = [];
    for (const probe of this.#distinct(await this.#probes(context, startName))) {
      if (probe.hint.status === "threw" || probe.hint.status === "unsettled") continue;
      const finding =
        (await this.#swapped(probe, [second, startName], context)) ??
        (startName === second ? undefined : await this.#sameTick(probe, startName, second, context));
      if (finding) findings.push(finding);
    }
    return findings;
  }

  /**
   * Makes calls and switches without awaiting either, and checks that each call reached one implementation
   * and ended there.
   */
  #swapped(probe: Probe, names: readonly string[], terms: PlayTerms): Promise<Finding | undefined> {
    const { operation, args, hint } = probe;
    return this.#spied(async (bridging, spies) => {
      const answers: { readonly answer: number }[] = [];
      const settles: (() => void)[] = [];
      const isLater = hint.status !== "returned";
      for (const spy of Object.values(spies)) {
        spy.calls.length = 0;
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
      for (const settle of settles) settle();
      await macrotask();
      for (const settle of settles) settle();
      const outcomes = await Promise.all(called.map(({ outcome }) => outcome));
      await withTimeout(Promise.allSettled(changes), terms.timeout);
      const reached = Object.values(spies).reduce(
        (total, spy) => total + reachedBy(spy, operation).length,
        0,
      );
      return swapFinding(operation.label, called.length, reached, outcomes);
    });
  }

  /** Makes a call and a switch in one tick, and checks that the call reached the implementation active before. */
  #sameTick(probe: Probe, first: string, second: string, terms: PlayTerms): Promise<Finding | undefined> {
    const { operation, args } = probe;
    return this.#spied(async (bridging, spies) => {
      await bridging.use(first);
      for (const spy of Object.values(spies)) spy.calls.length = 0;
      const called = callOf(bridging.port, operation, args, terms);
      const change: unknown = bridging.use(second);
      await called.outcome;
      await withTimeout(Promise.resolve(change), terms.timeout);
      const otherSpies = spies[second];
      if (!otherSpies || reachedBy(otherSpies, operation).length === 0) return undefined;
      return {
        name: "swap",
        place: operation.label,
        expected: `a call made before a switch to ${second} to reach ${first}`,
        found: `a call that reached ${second}`,
        remedy: "Look up the active implementation when the call is made, before the first await.",
      };
    });
  }

  async #probes(context: Context<object>, name: string): Promise<readonly Probe[]> {
    return probesOf(
      { subject: untyped<Target>(this.using(name)), wrap: (item) => item, release: undefined },
      context,
    );
  }

  #distinct(probes: readonly Probe[]): readonly Probe[] {
    const good = probes.filter(({ hint }) => hint.status === "returned" || hint.status === "resolved");
    return good.filter(
      ({ operation }, index) =>
        good.findIndex((probe) => probe.operation === operation) === index && operation.key !== "use",
    );
  }

  #spied<Result>(
    use: (bridging: BridgeHandle<Target>, spies: Readonly<Record<string, Spied<object>>>) => Promise<Result>,
  ): Promise<Result> {
    return withImplementation({ create: () => this.#made() }, async (own) => {
      const spies = Object.fromEntries(
        Object.entries(own).map(([name, implementation]) => [name, spyOn(implementation)]),
      );
      const subjects = Object.fromEntries(
        Object.entries(spies).map(([name, { subject }]) => [name, subject]),
      );
      const bridging = await this.#options.wrap(subjects as Made);
      try {
        return await use(bridging, spies);
      } finally {
        for (const spy of Object.values(spies)) spy.end();
        await this.#options.release?.(bridging.port);
        for (const [name, implementation] of Object.entries(own))
          await implementationOf(this.#given(name)).release?.(implementation);
      }
    });
  }

  async #made(): Promise<Readonly<Record<string, object>>> {
    const instance: Record<string, object> = {};
    for (const name of this.#names) instance[name] = await implementationOf(this.#given(name)).create();
    return instance;
  }

  #given(name: string): ImplementationInput<object> {
    return untyped(this.#options.implementations[name] as ImplementationInput<object>);
  }
}

function swapFinding(
  place: string,
  calls: number,
  reached: number,
  outcomes: readonly StepOutcome[],
): Finding | undefined {
  const remedy = "Let calls end in the implementation they started in, and switch for later calls.";
  const finding = (actual: string): Finding => ({
    name: "swap",
    place,
    expected: `each of ${calls} calls to reach one implementation, and to end there`,
    found: actual,
    remedy,
  });
  if (reached !== calls) return finding(`${reached} calls that reached one`);
  const failed = outcomes.filter(({ status }) => status !== "returned" && status !== "resolved").length;
  if (failed > 0) return finding(`${failed} of them without a result`);
  const input = outcomes.flatMap(({ raw }) =>
    raw && typeof raw === "object" && "answer" in raw ? [raw.answer] : [],
  );
  return input.length > 0 && new Set(input).size !== calls
    ? finding("a result that was returned twice")
    : undefined;
}
