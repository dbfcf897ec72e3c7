import { asClass, asFunction, asValue, type AwilixContainer, AwilixResolutionError, createContainer, InjectionMode, Lifetime } from "awilix";

interface Office {
  readonly tides: Tides;
  readonly harbour: string;
  readonly clock: () => number;
}

class Tides {
  readonly #harbour: string;
  constructor({ harbour }: { harbour: string }) {
    this.#harbour = harbour;
  }
  at(): string {
    return `${this.#harbour} 3.2`;
  }
}

function build(): AwilixContainer<Office> {
  const container = createContainer<Office>({ injectionMode: InjectionMode.PROXY, strict: true });
  container.register({
    tides: asClass(Tides, { lifetime: Lifetime.SINGLETON }),
    harbour: asValue("Ellery"),
    clock: asFunction(() => () => 42).scoped(),
  });
  return container;
}

const container = build();
console.log(container.resolve("tides").at(), container.cradle.clock());
const scope = container.createScope();
console.log(scope.resolve<Tides>("tides") === container.resolve("tides"), scope.hasRegistration("fog"));
try {
  container.resolve("pilot");
} catch (error) {
  console.log(error instanceof AwilixResolutionError);
}
await container.dispose();
