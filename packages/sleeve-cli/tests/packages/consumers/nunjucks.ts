import nunjucks, { Environment, type ILoader, type LoaderSource } from "nunjucks";

class Notices implements ILoader {
  readonly async = false as const;
  getSource(name: string): LoaderSource {
    return { src: `notice ${name}: {{ text | shout }}`, path: name, noCache: true };
  }
}

const environment = new Environment(new Notices(), { autoescape: true, trimBlocks: true });
environment.addFilter("shout", (text: string, times = 1) => `${text.toUpperCase()}${"!".repeat(times)}`);
environment.addGlobal("harbour", "Port Ellery");
console.log(environment.render("fog", { text: "no entry" }));
console.log(environment.renderString("{% for b in berths %}{{ loop.index }}{{ b }} {% endfor %}{{ harbour }}", { berths: ["a", "b"] }));
environment.renderString("{{ 1 + 1 }}", {}, (error, result) => console.log(error, result));
console.log(nunjucks.renderString("{{ '<' }}", {}), nunjucks.lib.TemplateError.name);
