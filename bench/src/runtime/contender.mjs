import { loadPopulation } from "./population.mjs";

/** Wraps one subject of each class, and returns a run that has every client call every member. */
export async function contender(size, name, wrap, times, kind = "clients", load = loadPopulation) {
  const population = await load(size, name);
  const wrappers = population.subjects.map((Subject, index) => wrap(new Subject(), population, index));
  return () => {
    let total = 0;
    for (let index = 0; index < wrappers.length; index++) {
      for (const client of population[kind][index]) total += client(wrappers[index], times);
    }
    return total;
  };
}

export const wrapByHand = (subject, population, index) => new population.handWritten[index](subject);

/** A forwarder that `sleeve wrap` has generated, in a population of `loadGenerated`. */
export const byGenerated = (subject, population, index) => new population.generated[index](subject);

/** The usual proxy: methods are called on the subject, so that private fields work. */
export const byProxy = (subject) =>
  new Proxy(subject, {
    get(target, key) {
      const value = target[key];
      return typeof value === "function" ? (...args) => value.apply(target, args) : value;
    },
  });
