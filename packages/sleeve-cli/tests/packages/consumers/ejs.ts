import ejs, { type AsyncTemplateFunction, type Options, type TemplateFunction } from "ejs";

const options: Options = { rmWhitespace: true, delimiter: "?" };
const template: TemplateFunction | AsyncTemplateFunction = ejs.compile("<? for (const name of names) { ?><?= name ?>;<? } ?>", options);
console.log(String(template({ names: ["Curlew", "<Heron>"] })));
console.log(ejs.render("<%= a + b %>", { a: 1, b: 2 }));
console.log(await ejs.render("<%= await value %>", { value: Promise.resolve(7) }, { async: true }));
console.log(ejs.escapeXML("a & b"));
try {
  ejs.render("<%= missing.name %>");
} catch (error) {
  console.log((error as Error).message.includes("missing"));
}
