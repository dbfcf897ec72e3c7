import Handlebars from "handlebars";

Handlebars.registerHelper("metres", (value: number, options: Handlebars.HelperOptions) => {
  const unit: string = options.hash["unit"] ?? "m";
  return new Handlebars.SafeString(`<b>${value.toFixed(1)}</b> ${unit}`);
});
Handlebars.registerPartial("foot", "-- {{harbour}}");

const template = Handlebars.compile<{ harbour: string; tides: { station: string; height: number }[] }>(
  "{{#each tides}}{{station}}: {{metres height unit='M'}}\n{{/each}}{{> foot}}",
  { noEscape: false, strict: true },
);
console.log(template({ harbour: "Port & Ellery", tides: [{ station: "quay", height: 3.21 }] }));

const office = Handlebars.create();
office.registerHelper("loud", (text: string) => text.toUpperCase());
console.log(office.compile("{{loud name}}")({ name: "fog" }));
console.log(Handlebars.escapeExpression("<a>"), Handlebars.Utils.isEmpty([]));
try {
  Handlebars.compile("{{#if}")({});
} catch (error) {
  console.log((error as Error).message.split("\n")[0]);
}
