/** Which names and texts are secrets: one rule for members, parameters, fields, headers, URLs and text that contains them. */

import { hardened, lowerCase, replaceAll, testPattern } from "../../shared/patterns.ts";

/** Replaces a secret in a log. */
export const REDACTED = "[redacted]";

/** Parts of names that are secret wherever they occur, as in `dbPasswords` and `accesstoken`. */
const SECRET_PART = /* @__PURE__ */ hardened(
  /pass(?:word|phrase|code|wd)|secret|token|credential|authori[sz]ation|api[-_ ]?key|private[-_ ]?key|access[-_ ]?key|cookie/i,
);

/** Words that are secret as a whole word of a name, as in `userPin` and `auth-header`, and not in `pinned` and `author`. */
const SECRET_WORD = /* @__PURE__ */ hardened(
  /(?:^|[^a-z])(?:pass|pwd|auth|jwt|pin|otp|session|signature|bearer)s?(?:$|[^a-z])/,
);
const WORD_START = /* @__PURE__ */ hardened(/([a-z\d])([A-Z])/g);
const ACRONYM_END = /* @__PURE__ */ hardened(/([A-Z])([A-Z][a-z])/g);

/** Maximum number of names whose answer is kept. */
const MAX_NAMES = 2000;
let secretNames: Record<string, boolean> = Object.create(null);
let nameCount = 0;

/** Whether a member, parameter, field or header is named like a secret. */
export function hasSecretName(name: string): boolean {
  const cached = secretNames[name];
  if (cached !== undefined) return cached;
  const isSecret = testPattern(SECRET_PART, name) || testPattern(SECRET_WORD, wordsOf(name));
  if (nameCount === MAX_NAMES) {
    secretNames = Object.create(null);
    nameCount = 0;
  }
  nameCount += 1;
  secretNames[name] = isSecret;
  return isSecret;
}

function wordsOf(name: string): string {
  return lowerCase(replaceAll(replaceAll(name, WORD_START, "$1 $2"), ACRONYM_END, "$1 $2"));
}

/** Names of headers whose values are secrets, in lists where names and values alternate. */
const SECRET_HEADER = /* @__PURE__ */ hardened(
  /^(?:(?:proxy-)?authorization|(?:set-)?cookie2?|x-[\w-]*(?:key|token|auth|secret|session|signature)[\w-]*)$/i,
);

/** Whether a text is the name of a header whose value is a secret. */
export function isSecretHeader(name: string): boolean {
  return testPattern(SECRET_HEADER, name);
}

/** A text without these characters contains nothing that is redacted. */
const MAY_CONTAIN_SECRETS = /* @__PURE__ */ hardened(/[=:]|%3d|earer|asic/i);

// The parts before a secret are bounded, so that the time to search a text grows linearly with its length.

/** The user information of a URL. */
const URL_CREDENTIALS = /* @__PURE__ */ hardened(
  /(\b[a-z][a-z\d+.-]{0,30}:\/\/[^\s/?#:@]{0,200}:)[^\s/?#]+(?=@)/gi,
);
/** A parameter of a query, a fragment, a form or a connection string. */
const PARAMETER = /* @__PURE__ */ hardened(
  /(^|[\s?&#;,("'[{])([\w.~%+\-[\]]{1,100})(=)("[^"]*"|'[^']*'|[^\s&#;,"')\]}]+)/g,
);
/** The same within an encoded text, such as a URL in a parameter. */
const ENCODED_PARAMETER = /* @__PURE__ */ hardened(
  /(%3f|%26|%23|%3b)([\w.~-]{1,100})(%3d)(?:(?!%26|%23|%3b)[^\s&#;,"'])+/gi,
);
/** A field of JSON in a text, whose quotes may be escaped. */
const JSON_FIELD = /* @__PURE__ */ hardened(
  /(\\{1,9}"|["'])([\w .$-]{1,100})(\1\s{0,9}:\s{0,9})(\\{1,9}"(?:(?!\\{1,9}").)*\\{1,9}"|"(?:[^"\\]|\\.)*"|'[^']*'|\{[^{}]*\}|\[[^[\]]*\]|[^\s,{}[\]"'\\]+)/g,
);
/** A token after the name of its scheme. What follows may be an ordinary word, unless the name starts a header. */
const CREDENTIALS = /* @__PURE__ */ hardened(
  /\b(Bearer\s+)[^\s,;"'\\]+|\b([Bb]earer\s+|[Bb]asic\s+)(?=\S*(?:[\d=]|[a-z][A-Z]))[^\s,;"'\\]+/g,
);
const HEADER_LINE = /* @__PURE__ */ hardened(
  /(\b(?:(?:proxy-)?authorization|(?:set-)?cookie)\s*:\s*)(?![\s"'\\])[^\r\n"']+/gi,
);

type Parts = readonly [before: string, name: string, after: string];

/** Replaces the secrets in a text: in URLs, parameters, JSON, header lines and credentials such as `Bearer …`. */
export function withoutSecrets(text: string): string {
  if (!testPattern(MAY_CONTAIN_SECRETS, text)) return text;
  const ofName = (match: string, ...[before, name, after]: Parts): string =>
    hasSecretName(decoded(name)) ? `${before}${name}${after}${REDACTED}` : match;
  // A parameter may contain another URL, or JSON.
  const ofParameter = (match: string, ...[before, name, after, value]: [...Parts, value: string]): string => {
    if (hasSecretName(decoded(name))) return `${before}${name}${after}${REDACTED}`;
    const inner = decoded(value);
    const shown = inner === value ? inner : withoutSecrets(inner);
    return shown === inner ? match : `${before}${name}${after}${shown}`;
  };
  const ofField = (_: string, ...[before, name, after, value]: [...Parts, value: string]): string => {
    const shown = hasSecretName(name) ? `${before}${REDACTED}${before}` : withoutSecrets(value);
    return `${before}${name}${after}${shown}`;
  };
  const ofScheme = (_: string, bearer?: string, credentials?: string): string =>
    `${bearer ?? credentials ?? ""}${REDACTED}`;
  let shown = replaceAll(text, HEADER_LINE, `$1${REDACTED}`);
  shown = replaceAll(shown, CREDENTIALS, ofScheme);
  shown = replaceAll(shown, URL_CREDENTIALS, `$1${REDACTED}`);
  shown = replaceAll(shown, JSON_FIELD, ofField);
  shown = replaceAll(shown, PARAMETER, ofParameter);
  return replaceAll(shown, ENCODED_PARAMETER, ofName);
}

/** Decodes a part of a URL, if it is encoded correctly. */
function decoded(text: string): string {
  try {
    return decodePart(text);
  } catch {
    return text;
  }
}

const decodePart = decodeURIComponent;
