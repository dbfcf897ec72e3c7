import Mustache from "mustache";

const view = { harbour: "Ellery", berths: [{ number: 1, free: true }, { number: 2, free: false }] };
console.log(Mustache.render("{{harbour}}: {{#berths}}{{number}}{{#free}}+{{/free}} {{/berths}}", view));
console.log(Mustache.render("<% name %> {{ name }}", { name: "fog" }, {}, { tags: ["<%", "%>"] }));
console.log(Mustache.render("{{> foot}}", { by: "Ines" }, { foot: "by {{by}}" }));
const tokens = Mustache.parse("a {{b}} c");
console.log(tokens.length, Mustache.escape("<b>"));
const writer = new Mustache.Writer();
console.log(writer.render("{{x}}", { x: 3 }));
