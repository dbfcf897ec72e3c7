import { inStyle, type Style } from "../isolation/style.ts";

/** Source that is drafted, and which export each of its lines is there for. */
export interface Rendered {
  readonly text: string;
  /** By line, counted from 0. */
  readonly keys: ReadonlyMap<number, readonly string[]>;
}

/** Collects lines, and whom they serve. */
export class Lines {
  readonly #lines: string[] = [];
  readonly #keys = new Map<number, readonly string[]>();

  add(text: string, keys: readonly string[] = []): void {
    for (const line of text.split("\n")) {
      if (keys.length > 0) this.#keys.set(this.#lines.length, keys);
      this.#lines.push(line);
    }
  }

  /** Whether what comes next needs no empty line before it. */
  get endsBlank(): boolean {
    return this.#lines.length === 0 || this.#lines.at(-1) === "";
  }

  rendered(): Rendered {
    return { text: `${this.#lines.join("\n").replace(/\n+$/, "")}\n`, keys: this.#keys };
  }
}

/** The same source in a project's style; lines that it breaks serve whom they served. */
export function styled({ text, keys }: Rendered, style: Style): Rendered {
  const lines: string[] = [];
  const moved = new Map<number, readonly string[]>();
  text.split("\n").forEach((line, index) => {
    for (const each of inStyle(line, style).split(style.endOfLine)) {
      const own = keys.get(index);
      if (own) moved.set(lines.length, own);
      lines.push(each);
    }
  });
  return { text: lines.join(style.endOfLine), keys: moved };
}
