import type { CompilerOptions } from "../typescript.ts";

/** The compiler's numbers of `react-jsx` and `react-jsxdev`; it does not export the names. */
const IMPORTS_FOR_JSX: ReadonlySet<number> = new Set([4, 5]);

/** The names in scope that JSX elements and fragments use, as paths: `["h"]`, `["React", "createElement"]`. */
export interface JsxNames {
  readonly factory: readonly string[];
  readonly fragment: readonly string[];
}

/** Returns the module that the compiler imports implicitly for JSX elements. */
export function elementsModule({ jsx, jsxImportSource }: CompilerOptions): string | undefined {
  return jsx !== undefined && IMPORTS_FOR_JSX.has(jsx)
    ? `${jsxImportSource ?? "react"}/jsx-runtime`
    : undefined;
}

/**
 * Returns the names that the JSX of a file uses without naming them; `undefined` if the compiler imports them. A file
 * may choose them in its first comments: `@jsx`, `@jsxFrag`, `@jsxRuntime`.
 */
export function jsxNamesIn(text: string, options: CompilerOptions): JsxNames | undefined {
  const [comments = ""] = /^(?:\s|\/\*[\s\S]*?\*\/|\/\/[^\n]*)*/.exec(text) ?? [];
  const pragma = (name: string) => new RegExp(`@${name}\\s+([\\w$.]+)`).exec(comments)?.[1];
  const factory = pragma("jsx");
  const isImported = options.jsx !== undefined && IMPORTS_FOR_JSX.has(options.jsx);
  const runtime = pragma("jsxRuntime") ?? (isImported && factory === undefined ? "automatic" : "classic");
  if (runtime === "automatic") return undefined;
  const namespace = options.reactNamespace ?? "React";
  return {
    factory: (factory ?? options.jsxFactory ?? `${namespace}.createElement`).split("."),
    fragment: (pragma("jsxFrag") ?? options.jsxFragmentFactory ?? `${namespace}.Fragment`).split("."),
  };
}

/** Returns the module that a file's first comments name for its JSX: `@jsxImportSource preact`. */
export function elementsModuleIn(text: string): string | undefined {
  const [comments = ""] = /^(?:\s|\/\*[\s\S]*?\*\/|\/\/[^\n]*)*/.exec(text) ?? [];
  const [, source] = /@jsxImportSource\s+(\S+)/.exec(comments) ?? [];
  return source === undefined ? undefined : `${source}/jsx-runtime`;
}
