import { compareText } from "../place.ts";

/** A package, with what speaks for its job. */
export interface JobFacts {
  readonly name: string;
  /** The keywords of its manifest. */
  readonly keywords: readonly string[];
  /** Names of its members that the project uses: `Dayjs.diff`. */
  readonly members: readonly string[];
}

/** Another package that may do the same job. */
export interface SameJob {
  readonly package: string;
  /** Words that both manifests have among their keywords. */
  readonly keywords: readonly string[];
  /** Names of members that the project uses of both. */
  readonly members: readonly string[];
}

/**
 * Finds packages that may do the same job in a project, by name: their manifests share a keyword, and the project uses members
 * of the same name of both.
 */
export function sameJobs(packages: readonly JobFacts[]): ReadonlyMap<string, readonly SameJob[]> {
  const facts = packages.map(({ name, keywords, members }) => ({
    name,
    words: wordsOf(keywords),
    members: memberNames(members),
  }));
  return new Map(
    facts.map(({ name, words, members }) => {
      const others = facts.flatMap((candidate): readonly SameJob[] => {
        if (candidate.name === name) return [];
        const keywords = shared(words, candidate.words);
        const both = shared(members, candidate.members);
        return keywords.length > 0 && both.length > 0
          ? [{ package: candidate.name, keywords, members: both }]
          : [];
      });
      return [name, others.sort((left, right) => compareText(left.package, right.package))];
    }),
  );
}

/** The words of keywords, in the singular. */
function wordsOf(keywords: readonly string[]): ReadonlySet<string> {
  const words = keywords.flatMap((text) => [text, ...text.split(/[^\p{L}\d]+/u)]);
  const singulars = words.map(singular).filter((word) => word.length > 1 && !UNSPECIFIC.has(word));
  return new Set(singulars);
}

function memberNames(members: readonly string[]): ReadonlySet<string> {
  const names = members.map((member) => member.slice(member.lastIndexOf(".") + 1));
  return new Set(names.filter((name) => !COMMON_MEMBERS.has(name)));
}

function shared(left: ReadonlySet<string>, right: ReadonlySet<string>): readonly string[] {
  return [...left].filter((word) => right.has(word)).sort(compareText);
}

function singular(word: string): string {
  const lowered = word.toLowerCase();
  return lowered.length > 3 && lowered.endsWith("s") ? lowered.slice(0, -1) : lowered;
}

/** Words that say how a package is made, or what nearly every package does. */
const UNSPECIFIC: ReadonlySet<string> = new Set(
  [
    ..."javascript typescript js ts node nodejs node.js browser isomorphic universal esm es6 es2015 commonjs".split(
      " ",
    ),
    ..."module library lib util utility tool toolkit api framework fast small tiny simple light lightweight".split(
      " ",
    ),
    ..."performance json data type async promise stream parser parse parsing string object array function".split(
      " ",
    ),
    ..."functional server client web app application http https file text test testing html".split(" "),
  ].map(singular),
);

/** Members that most objects have, whatever their job. */
const COMMON_MEMBERS: ReadonlySet<string> = new Set(
  "default name length code message toString toJSON valueOf then on off once emit".split(" "),
);
