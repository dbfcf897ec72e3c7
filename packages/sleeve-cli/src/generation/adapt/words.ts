import { dimensionOf, wordsOf } from "./units.ts";

/** Words that mean the same in names of members, as programming interfaces use them. */
const SYNONYMS: readonly string[] = [
  "get fetch read load find lookup retrieve obtain",
  "set put write store save assign",
  "delete remove del unset erase drop discard unlink evict rm",
  "add plus append insert",
  "subtract minus sub",
  "multiply times mul",
  "divide div",
  "modulo mod remainder",
  "negate negated neg",
  "power pow exponentiate",
  "absolute abs magnitude",
  "has contains includes exists",
  "clear reset flushall removeall deleteall clearall",
  "close end quit disconnect shutdown stop terminate dispose destroy teardown finish",
  "open connect start begin launch init initialize",
  "listen serve",
  "on subscribe listener addlistener addeventlistener",
  "off unsubscribe removelistener removeeventlistener",
  "emit dispatch trigger fire publish notify",
  "size length count cardinality",
  "parse decode deserialize unmarshal load",
  "stringify encode serialize format marshal dump render",
  "log print",
  "warning warn",
  "error err failure",
  "verbose trace silly",
  "child scope derive",
  "clone copy duplicate",
  "equals equal eq is same identical",
  "before earlier lt less",
  "after later gt greater",
  "difference diff until since distance",
  "js javascript native",
  "milliseconds millis ms",
  "date datetime day moment instant",
  "timestamp epoch unix time",
  "string text str",
  "number num",
  "array list all",
  "element item entry record",
  "query search",
  "send request execute exec run perform invoke call",
  "select columns pick",
  "where filter",
  "limit take",
  "offset skip",
  "order sort",
  "keys names",
  "pop dequeue shift",
  "push enqueue add",
  "peek front head first top",
  "last tail back",
  "schedule delay defer",
  "cancel abort",
  "ttl expiry expiration maxage lifetime age expire",
  "key name field",
  "id identifier uuid guid ulid nanoid cuid",
  "v4 nanoid ulid cuid createid uuid generate",
  "message msg",
  "path url uri address",
  "body data payload content contents",
  "options opts config settings configuration",
  "callback cb handler listener fn",
  "valid validate check verify",
  "sign create issue",
  "generate make new create build",
  "increment incr inc increase",
  "decrement decr dec decrease",
  "lower lowercase",
  "upper uppercase",
  "round rounded",
  "floor truncate trunc",
  "ceil ceiling",
  "maximum max",
  "minimum min",
  "resume continue play",
  "pause hold suspend",
  "zone timezone tz",
  "locale lang language",
  "directory dir folder",
  "rename move mv",
  "book reserve",
  "height level",
  "port harbour harbor station",
  "vessel ship boat",
  "berth mooring",
  "tug tugboat",
  "next following upcoming",
  "previous prior prev",
  "current now present",
  "register use install plug",
  "resolve lookup",
  "compile template",
  "sum total",
  "average mean avg",
];

/** Words that say little about what a member does. */
const WEAK: ReadonlySet<string> = new Set(
  "get is to the of by do from as in with at for a an make sync async value values object obj instance string js native utc int integer".split(
    " ",
  ),
);

/** Compares names of members by their words. */
export class NameComparison {
  readonly #groups = new Map<string, Set<number>>();
  /** Words of the names of the types themselves, which say little in the names of their members. */
  readonly #own: ReadonlySet<string>;

  /**
   * @param synonyms words that mean the same in this project, as lists
   * @param types the compared types, as they are named: `src/tides.ts#TideTable`
   */
  constructor(synonyms: readonly (readonly string[])[] = [], types: readonly string[] = []) {
    for (const [index, group] of [...SYNONYMS.map((line) => line.split(" ")), ...synonyms].entries())
      for (const word of group) {
        const stem = stemOf(word.toLowerCase());
        this.#groups.set(stem, (this.#groups.get(stem) ?? new Set()).add(index));
      }
    // A word with synonyms may be what a member does.
    this.#own = new Set(
      types
        .flatMap(wordsOf)
        .map(stemOf)
        .filter((stem) => !this.#groups.has(stem)),
    );
  }

  /** Returns how much alike two names are, from 0 to 1. Only equal names are 1. */
  similarity(left: string, right: string): number {
    if (left === right) return 1;
    const [ours, theirs] = [wordsOf(left), wordsOf(right)];
    if (ours.length === 0 || theirs.length === 0) return 0;
    // An underscore marks what clients do not call.
    if (left.startsWith("_") !== right.startsWith("_")) return 0;
    if (ours.join("") === theirs.join("")) return 0.98;
    const whole = this.#areSynonyms(ours.join(""), theirs.join("")) ? SYNONYM : 0;
    return Math.min(0.97, Math.max(whole * 0.95, this.#overlap(ours, theirs)));
  }

  #overlap(ours: readonly string[], theirs: readonly string[]): number {
    const pairs = ours
      .flatMap((our, at) =>
        theirs.map((their, index) => ({ at, index, score: this.#wordSimilarity(our, their) })),
      )
      .filter(({ score }) => score > 0)
      .sort((a, b) => b.score - a.score);
    const [usedOurs, usedTheirs] = [new Set<number>(), new Set<number>()];
    let common = 0;
    for (const { at, index, score } of pairs) {
      if (usedOurs.has(at) || usedTheirs.has(index)) continue;
      usedOurs.add(at);
      usedTheirs.add(index);
      common += score * Math.min(this.#weightOf(ours[at] ?? ""), this.#weightOf(theirs[index] ?? "")) * 2;
    }
    const total = [...ours, ...theirs].reduce((sum, word) => sum + this.#weightOf(word), 0);
    // A word that only one name has often makes it something else: `removeJob` and `removeJobScheduler`.
    const alone = [
      ...ours.filter((_, at) => !usedOurs.has(at)),
      ...theirs.filter((_, index) => !usedTheirs.has(index)),
    ].filter((word) => this.#weightOf(word) === 1);
    return (common / total) * 0.85 ** alone.length;
  }

  #weightOf(word: string): number {
    // `toSeconds` is a conversion, and `second` a part.
    if (word === "to") return 0.6;
    return WEAK.has(word) || this.#own.has(stemOf(word)) ? 0.35 : 1;
  }

  #areSynonyms(left: string, right: string): boolean {
    const dimension = dimensionOf(left);
    if (dimension !== undefined && dimension === dimensionOf(right)) return true;
    const groups = this.#groups.get(stemOf(left));
    const others = this.#groups.get(stemOf(right));
    return groups !== undefined && others !== undefined && [...groups].some((group) => others.has(group));
  }

  /** Whether the longer word is the shorter one and another word: `pushpop`. */
  #isCompound(left: string, right: string): boolean {
    const [short, long] = left.length < right.length ? [left, right] : [right, left];
    return long.startsWith(short) && this.#groups.has(stemOf(long.slice(short.length)));
  }

  #wordSimilarity(left: string, right: string): number {
    if (left === right) return 1;
    const [a, b] = [stemOf(left), stemOf(right)];
    if (a === b) return 0.97;
    if (this.#areSynonyms(left, right)) return SYNONYM;
    // `msg` and `message`: the same first letter, and the letters of one in the other.
    if (Math.min(a.length, b.length) >= 3 && isAbbreviation(a, b) && !this.#isCompound(a, b)) return 0.85;
    return 0;
  }
}

/** How much alike two words with one meaning are. */
const SYNONYM = 0.88;

function stemOf(word: string): string {
  if (word.length <= 3) return word;
  return word
    .replace(/ies$/, "y")
    .replace(/(?<=[^s])s$/, "")
    .replace(/(?<=..)(?:ing|ed)$/, "")
    .replace(/e$/, "");
}

function isAbbreviation(left: string, right: string): boolean {
  const [short, long] = left.length < right.length ? [left, right] : [right, left];
  if (short.length === long.length || short[0] !== long[0]) return false;
  if (long.startsWith(short)) return true;
  // Consonants in order.
  if (short.length > 4) return false;
  let at = 0;
  for (const letter of long) if (letter === short[at]) at += 1;
  return at === short.length && short.at(-1) !== undefined && !/[aeiou]/.test(short.slice(1));
}
