/**
 * A program of several classes: subjects, hand-written wrappers, and for each member a client that calls
 * it in a loop of its own. Loaded anew for each contender, so that none sees the others' types.
 *
 * @param {{ classes: number, members: number, areNamesOwn?: boolean }} size `areNamesOwn`: no two classes have a member
 *   name in common
 * @param {string} contender
 */
export function loadPopulation(size, contender) {
  const source = `${populationSource(size)}\n// ${contender}`;
  return import(/* @vite-ignore */ `data:text/javascript,${encodeURIComponent(source)}`);
}

/** The source of a population, in JavaScript. */
export function populationSource({ classes, members, areNamesOwn = false }) {
  const indexes = Array.from({ length: classes }, (_, index) => index);
  return `${indexes.map((index) => classSource(index, members, areNamesOwn)).join("\n")}
export const subjects = [${indexes.map((index) => `Subject${index}`)}];
export const handWritten = [${indexes.map((index) => `Forward${index}`)}];
export const clients = [${indexes.map((index) => `client${index}`)}];
export const rows = [${indexes.map((index) => `row${index}`)}];
`;
}

const PARAMETERS = ["a", "b", "c"];

function classSource(index, members, areNamesOwn) {
  const list = Array.from({ length: members }, (_, member) => {
    const parameters = PARAMETERS.slice(0, member % 4);
    const name = `member${areNamesOwn ? `${index}_` : ""}${member}`;
    return { name, parameters, sum: ["this.total", ...parameters, member].join(" + ") };
  });
  return `
export class Subject${index} {
  total = ${index};
  ${list.map(({ name, parameters, sum }) => `${name}(${parameters}) { this.total = (${sum}) & 0xffff; return this.total; }`).join("\n  ")}
}
export class Forward${index} {
  #subject;
  constructor(subject) { this.#subject = subject; }
  ${list.map(({ name, parameters }) => `${name}(${parameters}) { return this.#subject.${name}(${parameters}); }`).join("\n  ")}
}
export const client${index} = [
  ${list
    .map(
      ({ name, parameters }) => `function (subject, times) {
    let total = 0;
    for (let time = 0; time < times; time++) total = (total + subject.${name}(${parameters.map((_, at) => `time + ${at}`)})) | 0;
    return total;
  }`,
    )
    .join(",\n  ")}
];
export const row${index} = [
  function (subject, times) {
    let total = 0;
    for (let time = 0; time < times; time++) {
      ${list.map(({ name, parameters }) => `total = (total + subject.${name}(${parameters.map((_, at) => `time + ${at}`)})) | 0;`).join("\n      ")}
    }
    return total;
  },
];`;
}
