/**
 * `npm run words`: finds phrases and names that this project has replaced by standard terms.
 *
 * Reads every tracked source, test, document and message. Prints each hit with the term to use instead, and exits with 1.
 * A legitimate use is listed in ALLOWED, with its reason.
 */
import { spawnSync } from "node:child_process";
import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";

const root = join(import.meta.dirname, "..");

/** Phrases in prose, messages and names of tests. */
const PHRASES = [
  [/\b(tell|tells|told|telling|untold)\b/i, "report, print, log or call"],
  [/\b(ask|asks|asked|asking|asker)\b/i, "query, call, check or request"],
  [/\b(mend|mends|mended|mending)\b/i, "fix"],
  [/\b(whoever|nobody|whereabouts)\b/i, "the noun"],
  [/\bheirs?\b/i, "inheriting object"],
  [/\b(tales?|strays?|strayed)\b/i, "stale value, uncaught error"],
  [/\bhand(s|ed|ing)? (it |them |things )?on\b/i, "pass, re-export"],
  [/\b(come|comes|came|coming) by\b/i, "find, receive"],
  [/\blet(s|ting)? go of\b/i, "release"],
  [/\b(all|each|some|more|nothing|part) of it\b/i, "the noun"],
  [/\bunless given\b/i, "Default: ..."],
  [/\bblotted\b/i, "redacted"],
  [/\bpassed by\b/i, "bypassed"],
  [/\blengths? of time\b/i, "duration"],
  [/\bby chance\b/i, "random"],
  [/\bmakes? nothing of\b/i, "ignores"],
  [/\bthis is a fault of\b/i, "this is a bug in"],
  [/\breckon(s|ed|ing)?\b/i, "compute"],
  [/\bst(and|ands|anding|ood) (for|before)\b/i, "replaces, represents"],
  [/\bthe outside in\b/i, "outermost first"],
  [/\ball(?: is)? well\b/i, "no findings"],
  [/\bto mend\b/i, "findings"],
  [/\bwaive(s|d|rs?)?\b/i, "suppress, suppression"],
  [/\bsuch a one\b/i, "the noun"],
];

/** Names that had a private meaning, in code. */
const NAMES = [
  [
    /\b(hiding|patience|atMost|meetsEveryCall|mayAnswer|refusing)\b/,
    "redact, storeTimeout, timeout, observesAll, mayShortCircuit, throw",
  ],
  [/\b(Promising|Tallied|Occupant|occupy|vacate|keepingWritten)\b/, "AsyncMembers, MemberStats, SubjectSlot"],
  [
    /\b(BareSite|CallPlace|StackNode|nodeOf|standFor|shadowOf)\b/,
    "Forwarder, CallSiteTemplate, LayerStack, registerAlias",
  ],
  [
    /\b(isOfLanguage|SET_APART|isOverLater|whenOver|chooser)\b/,
    "isBuiltin, RESERVED_KEYS, isPending, onSettled, memberMatcher",
  ],
  [
    /\b(Whereabouts|withStrays|Alike|Hung|endOf|playAll|Habits)\b/,
    "ExecutionContext, captureUncaught, equality, watchdog",
  ],
  [
    /\b(taleFindings|whenMade|lend|Circumstances|misfit|byHand|(is)?HandedOn|(layered|bare)Site)\b/i,
    "staleFindings, manualSteps, reexported",
  ],
  [
    /\b(territory|worktree|workTree|lastRun|amend|ProblemError|Ending)\b/,
    "origin, git, survey-cache, CliError, CommandResult",
  ],
  [
    /\b(seat|madeUp|proven|circumstances|standing|standIn|canPropose|whereabouts|trials?)\b/i,
    "slot, generatedConfig, verified, context, probe",
  ],
  [/(\(|, )each(,|\)| =>)/, "a parameter named after its contents"],
];

/** Legitimate uses: a file, what may stand there, and why. */
const ALLOWED = [
  ["scripts/words.mjs", /./, "the list itself"],
  ["packages/sleeve-cli/tests/", /\beach\b/, "members of outside code named each"],
];

const CODE = /\.[cm]?tsx?$|\.[cm]?jsx?$|\.html$/;
const READ = /\.(md|ya?ml)$/;

const { stdout } = spawnSync("git", ["ls-files", "-co", "--exclude-standard"], {
  cwd: root,
  encoding: "utf8",
});
const files = stdout
  .split("\n")
  .filter((path) => (CODE.test(path) || READ.test(path)) && existsSync(join(root, path)));
const hits = files.flatMap(hitsOf);
for (const { path, line, found, instead } of hits)
  console.log(`${path}:${line}  "${found}": write ${instead}`);
if (hits.length > 0) {
  console.log(
    `\n${hits.length} replaced ${hits.length === 1 ? "term" : "terms"} found. Use the terms in docs/reference/glossary.md.`,
  );
  process.exitCode = 1;
} else {
  console.log(`Words: no replaced term in ${files.length} files.`);
}

function hitsOf(path) {
  const terms = CODE.test(path) ? [...PHRASES, ...NAMES] : PHRASES;
  const allowed = ALLOWED.filter(([file]) => path.startsWith(file)).map(([, pattern]) => pattern);
  return readFileSync(join(root, path), "utf8")
    .split("\n")
    .flatMap((text, index) => {
      if (allowed.some((pattern) => pattern.test(text))) return [];
      return terms.flatMap(([pattern, instead]) => {
        const found = pattern.exec(text);
        return found ? [{ path, line: index + 1, found: found[0], instead }] : [];
      });
    });
}
