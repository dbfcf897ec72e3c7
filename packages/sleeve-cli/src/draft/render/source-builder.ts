import { inStyle, type Style } from "../../isolation/style.ts";

/** Drafted source, and the choices that each line belongs to. */
export interface RenderedSource {
  readonly text: string;
  /** By line, counted from 0. */
  readonly keys: ReadonlyMap<number, readonly string[]>;
}

/** Collects lines with the choices they belong to. */
export class SourceBuilder {
  readonly #lines: string[] = [];
  readonly #keys = new Map<number, readonly string[]>();

  add(text: string, keys: readonly string[] = []): void {
    for (const line of text.split("\n")) {
      if (keys.length > 0) this.#keys.set(this.#lines.length, keys);
      this.#lines.push(line);
    }
  }

  /** Whether the next line needs no empty line before it. */
  get endsBlank(): boolean {
    return this.#lines.length === 0 || this.#lines.at(-1) === "";
  }

  build(): RenderedSource {
    return { text: `${this.#lines.join("\n").replace(/\n+$/, "")}\n`, keys: this.#keys };
  }
}

/** Returns the source in a project's style. Lines that are broken keep their choices. */
export function styled({ text, keys }: RenderedSource, style: Style): RenderedSource {
  const lines: string[] = [];
  const moved = new Map<number, readonly string[]>();
  text.split("\n").forEach((line, index) => {
    for (const name of inStyle(line, style).split(style.endOfLine)) {
      const own = keys.get(index);
      if (own) moved.set(lines.length, own);
      lines.push(name);
    }
  });
  return { text: lines.join(style.endOfLine), keys: moved };
}
