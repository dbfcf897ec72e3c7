import { Lexer, marked, Marked, type MarkedExtension, type Token, type Tokens } from "marked";

const extension: MarkedExtension = {
  renderer: {
    heading({ depth, text }: Tokens.Heading): string {
      return `<h${depth} class="notice">${text}</h${depth}>\n`;
    },
  },
};

const notices = new Marked(extension, { gfm: true });
console.log(notices.parse("# Fog\n\nNo entry until **six**.", { async: false }));

function headings(tokens: readonly Token[]): readonly string[] {
  return tokens.flatMap((token) => (token.type === "heading" ? [String(token.raw).trim()] : []));
}

const lexer = new Lexer({ gfm: true });
console.log(headings(lexer.lex("# One\n\ntext\n\n## Two\n")).join(" / "));
console.log(marked.parseInline("a *b* c", { async: false }));
const html: string = await marked("- 1\n- 2", { async: true, breaks: true });
console.log(html.trim());
