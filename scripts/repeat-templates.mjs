import MagicString from "magic-string";
import { parseSync } from "oxc-parser";

/** Number of templates of each kind, and how many of them are created at a time. `docs/maintainers/engine.md` has the cost. */
export const TEMPLATES = {
  node: {
    blockSize: 64,
    calls: 512,
    comparisons: 64,
    functions: 64,
    passes: 128,
    reads: 128,
    writes: 64,
    namedCalls: 128,
    namedReads: 64,
    translations: 128,
    entries: 64,
    watches: 64,
  },
  browser: {
    blockSize: 32,
    calls: 128,
    comparisons: 8,
    functions: 4,
    passes: 32,
    reads: 16,
    writes: 8,
    namedCalls: 12,
    namedReads: 4,
    translations: 24,
    entries: 16,
    watches: 8,
  },
};

/** A plugin of the bundler that writes out the call-site templates of `forward/closed/templates.ts`. */
export function repeatTemplates({ blockSize, ...counts }) {
  return {
    name: "repeat-templates",
    transform: {
      order: "pre",
      handler(code, id) {
        if (!id.endsWith("forward/closed/templates.ts")) return undefined;
        const text = new MagicString(code);
        for (const [kind, count] of Object.entries(counts)) {
          const { blocks, template } = listIn(code, kind);
          const size = Math.min(blockSize, count);
          const copies = `${code.slice(template.start, template.end)},\n`.repeat(size);
          text.overwrite(blocks.start, blocks.end, `[${`() => [\n${copies}],\n`.repeat(count / size)}]`);
        }
        return { code: text.toString(), map: text.generateMap({ source: id, includeContent: true }) };
      },
    },
  };
}

/** The list of blocks of one kind, and its only template: in a static field of the class, or in a constant of the file. */
function listIn(code, kind) {
  const { program } = parseSync("templates.ts", code);
  const declarations = program.body.map((node) => node.declaration ?? node);
  const fields = declarations.flatMap(({ type, body }) => (type === "ClassDeclaration" ? body.body : []));
  const constants = declarations.flatMap(({ type, declarations }) =>
    type === "VariableDeclaration" ? declarations : [],
  );
  const blocks =
    fields.find(({ key, static: isStatic }) => isStatic && key?.name === kind)?.value ??
    constants.find(({ id }) => id.name === kind)?.init;
  const template = blocks?.elements[0]?.body?.elements?.[0];
  if (!template) throw new Error(`templates.ts has no list of ${kind}.`);
  return { blocks, template };
}
