import {
  type Attributes,
  type Context,
  context,
  type Histogram,
  type MeterProvider,
  metrics,
  propagation,
  type Span,
  SpanKind,
  SpanStatusCode,
  type TracerProvider,
  trace,
} from "@opentelemetry/api";
import type { Layer } from "./forward/call.ts";
import { withArguments } from "./forward/call-arguments.ts";
import { type LayerOptions, layer } from "./layers/layer.ts";
import { hostClock } from "./shared/clock.ts";
import { type HostHeaders, host } from "./shared/host.ts";
import { requireFunction, requireOptions } from "./shared/options.ts";
import { type Outcome, succeeded } from "./shared/outcome.ts";

export interface TracedOptions<Target, Request = unknown> extends LayerOptions<Target> {
  /** Prefix of span names: `TideTable` gives `TideTable.heightAt`. Default: no prefix. */
  readonly name?: string;
  /** OpenTelemetry span kind: `client` for requests to another service. Default: `internal`. */
  readonly kind?: "internal" | "client" | "server" | "producer" | "consumer";
  /** Returns the OpenTelemetry context that spans of a request belong to, with `inContext`. Default: the current one. */
  readonly parent?: (request: Request) => Context;
  /** Tracer and meter providers. Default: the globally registered ones. */
  readonly tracers?: TracerProvider;
  readonly meters?: MeterProvider;
}

const KINDS = {
  internal: SpanKind.INTERNAL,
  client: SpanKind.CLIENT,
  server: SpanKind.SERVER,
  producer: SpanKind.PRODUCER,
  consumer: SpanKind.CONSUMER,
} as const;

const LIBRARY = "sleeve";

/**
 * Traces calls with OpenTelemetry.
 *
 * Each call gets a span that lasts until the call returns, throws or settles. The span is current while the
 * call runs, also across awaits if a context manager is registered. Each call is also recorded in the
 * histogram `code.function.duration`, in seconds. Spans and samples carry `code.function.name` and, for a
 * failed call, `error.type`, as in the OpenTelemetry semantic conventions. Arguments and results are not
 * recorded.
 *
 * @example
 * import { decorate } from "sleeve";
 * import { traced } from "sleeve/traced";
 *
 * const table = { heightAt: async (hour: number) => hour * 2 };
 * const tides = decorate(table, traced({ name: "TideTable", only: ["heightAt"] }));
 * await tides.heightAt(4); // a span TideTable.heightAt
 */
export function traced<Target, Request = unknown>(
  options: TracedOptions<Target, Request> = {},
): Layer<Target, Request> {
  requireOptions(
    options,
    "traced",
    ["name", "kind", "parent", "tracers", "meters", "only"],
    'traced({ name: "TideTable" })',
  );
  const { name, kind = "internal", parent, tracers, meters, only } = options;
  if (parent !== undefined) requireFunction(parent, "traced: parent");
  const tracer = tracers ? tracers.getTracer(LIBRARY) : trace.getTracer(LIBRARY);
  let histogram: Histogram | undefined;
  // Created at first use, because a provider may be registered after the layer.
  const durations = () => {
    histogram ??= (meters ?? metrics).getMeter(LIBRARY).createHistogram("code.function.duration", {
      description: "Duration of calls through wrappers",
      unit: "s",
    });
    return histogram;
  };
  return layer<Target, Request>(
    "traced",
    {
      watch: ({ label }) => {
        const title = name ? `${name}.${label}` : label;
        return (call) => {
          const attributes: Attributes = { "code.function.name": title };
          const outer = parent ? parent(call.context) : context.active();
          const span = tracer.startSpan(title, { kind: KINDS[kind], attributes }, outer);
          const start = hostClock.now();
          return {
            around: (run) => context.with(trace.setSpan(outer, span), run),
            ended: (outcome) => {
              end(span, outcome, attributes);
              durations().record((hostClock.now() - start) / 1000, attributes);
            },
          };
        };
      },
    },
    { ...(only && { only }), observesAll: true, needsContext: parent !== undefined },
  );
}

function end(span: Span, outcome: Outcome, attributes: Attributes): void {
  if (!succeeded(outcome)) {
    const { error } = outcome;
    const type = error instanceof Error ? error.name : typeof error;
    attributes["error.type"] = type;
    span.setAttribute("error.type", type);
    span.recordException(error instanceof Error ? exceptionOf(error) : String(error));
    span.setStatus({ code: SpanStatusCode.ERROR, ...(error instanceof Error && { message: error.message }) });
  }
  span.end();
}

/** The format of exceptions has no cause, so the stack includes those of the causes. */
function exceptionOf(error: Error): { name: string; message: string; stack: string } {
  const { name, message } = error;
  const stacks: string[] = [];
  const seen = new Set<unknown>();
  for (let cause: unknown = error; cause !== undefined && !seen.has(cause); ) {
    seen.add(cause);
    stacks.push(cause instanceof Error ? (cause.stack ?? `${cause.name}: ${cause.message}`) : String(cause));
    cause = cause instanceof Error ? cause.cause : undefined;
  }
  return { name, message, stack: stacks.join("\nCaused by: ") };
}

/** The part of `fetch` that matters here. */
type Fetch = (input: never, init?: never) => Promise<unknown>;

/**
 * Adds the current trace to outgoing requests, in the headers of the registered propagator: `traceparent` and
 * `tracestate` for W3C Trace Context. Put it around `fetch`, inside {@link traced}.
 *
 * @example
 * import { decorate } from "sleeve";
 * import { traced, tracingRequests } from "sleeve/traced";
 *
 * const request = decorate(fetch, traced({ name: "gauge", kind: "client" }), tracingRequests());
 * await request("http://127.0.0.1:8080/level");
 */
export function tracingRequests(): Layer<Fetch> {
  return layer<Fetch>("tracingRequests", {
    call: (next) => (call) => {
      const [input, init] = call.args as [unknown, { readonly headers?: unknown } | undefined];
      if (!host.Headers) return next(call);
      const headers = new host.Headers(init?.headers ?? headersOf(input));
      propagation.inject(context.active(), headers, { set: (into, key, value) => into.set(key, value) });
      return next(withArguments(call, [input, { ...init, headers }]));
    },
  });
}

function headersOf(input: unknown): unknown {
  return typeof input === "object" && input !== null && "headers" in input ? input.headers : undefined;
}

type HeaderRecord = Readonly<Record<string, string | readonly string[] | undefined>>;

/** Request headers as a server receives them: keyed by lower-case name, or a `Headers` object. */
export type IncomingHeaders = HeaderRecord | Pick<HostHeaders, "get" | "keys">;

/**
 * Runs the work for an incoming request in the trace that the request belongs to.
 *
 * @example
 * import { createServer } from "node:http";
 * import { continuingTrace } from "sleeve/traced";
 *
 * createServer((request, response) => {
 *   continuingTrace(request.headers, () => response.end("4.53"));
 * });
 */
export function continuingTrace<Result>(headers: IncomingHeaders, work: () => Result): Result {
  const carried = propagation.extract(context.active(), headers, {
    keys: (from) => (isObjectOfHeaders(from) ? [...from.keys()] : Object.keys(from)),
    get: (from, key) => (isObjectOfHeaders(from) ? (from.get(key) ?? undefined) : textOf(from[key])),
  });
  return context.with(carried, work);
}

function isObjectOfHeaders(headers: IncomingHeaders): headers is Pick<HostHeaders, "get" | "keys"> {
  return typeof headers["get"] === "function";
}

function textOf(value: string | readonly string[] | undefined): string | undefined {
  return typeof value === "string" ? value : value?.join(",");
}
