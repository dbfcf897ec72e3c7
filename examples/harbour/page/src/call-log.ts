import type { LogEntry, Sample } from "sleeve";

const ROWS_KEPT = 200;

/** Shows calls in a table, newest first. */
export class CallLog {
  readonly #body: HTMLTableSectionElement;
  readonly #rows = new Map<number, HTMLTableRowElement>();
  #sample: Sample | undefined;
  #unlogged = 0;

  constructor(body: HTMLTableSectionElement) {
    this.#body = body;
  }

  clear(): void {
    this.#rows.clear();
    this.#sample = undefined;
    this.#body.replaceChildren();
  }

  /** A call begins or ends. Its sample, if timing is on, comes just before the end. */
  entry(entry: LogEntry): void {
    if (entry.event === "called") {
      this.#rows.set(
        entry.call,
        this.#add([`#${entry.call}`, entry.member, entry.args.map(shown).join(", "), "…", ""]),
      );
      return;
    }
    const row = this.#rows.get(entry.call);
    if (!row) return;
    this.#rows.delete(entry.call);
    const failed = "error" in entry;
    fill(row, 3, failed ? textOfError(entry.error) : shown(entry.value), failed);
    fill(row, 4, this.#sample ? this.#sample.milliseconds.toFixed(1) : "", failed);
    this.#sample = undefined;
  }

  /** A call was timed. Without logging, the sample is all there is to show. */
  sample(sample: Sample, isLogged: boolean): void {
    if (isLogged) {
      this.#sample = sample;
      return;
    }
    this.#unlogged += 1;
    this.#add([
      `${this.#unlogged}`,
      sample.member,
      "not logged",
      sample.status,
      sample.milliseconds.toFixed(1),
    ]);
  }

  #add(cells: readonly string[]): HTMLTableRowElement {
    const row = document.createElement("tr");
    cells.forEach((text, index) => {
      const cell = row.insertCell();
      cell.textContent = text;
      if (index === 4) cell.className = "number";
    });
    this.#body.prepend(row);
    while (this.#body.rows.length > ROWS_KEPT) this.#body.lastElementChild?.remove();
    return row;
  }
}

function fill(row: HTMLTableRowElement, index: number, text: string, failed: boolean): void {
  const cell = row.cells[index];
  if (!cell) return;
  cell.textContent = text;
  cell.classList.toggle("failed", failed);
}

function textOfError(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}

function shown(value: unknown): string {
  if (value instanceof Date) return `${value.toISOString().slice(0, 16).replace("T", " ")}Z`;
  if (typeof value === "number") return `${value.toFixed(3)}`;
  if (Array.isArray(value)) return `${value.length} tides`;
  return value === undefined ? "" : String(value);
}
