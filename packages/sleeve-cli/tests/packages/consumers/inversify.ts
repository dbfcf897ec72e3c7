import { Container, type ResolutionContext } from "inversify";

class Tides {
  at(): string {
    return "3.2";
  }
}

class Office {
  constructor(readonly tides: Tides) {}
}

const HARBOUR = Symbol.for("harbour");

function build(): Container {
  const container = new Container({ defaultScope: "Singleton" });
  container.bind<string>(HARBOUR).toConstantValue("Ellery");
  container.bind(Tides).toSelf().inSingletonScope();
  container.bind(Office).toDynamicValue((context: ResolutionContext) => new Office(context.get(Tides)));
  return container;
}

const container = build();
const office = container.get(Office);
console.log(office.tides.at(), container.get<string>(HARBOUR), container.isBound("fog"));
console.log(container.get(Tides) === office.tides);
try {
  container.get("fog");
} catch (error) {
  console.log((error as Error).message.split("\n")[0]);
}
