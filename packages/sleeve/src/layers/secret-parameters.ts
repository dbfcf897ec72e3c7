import type { Call } from "../forward/call.ts";
import { calledFunction } from "../forward/called-function.ts";
import { addTo, PrivateWeakMap } from "../shared/intrinsics.ts";
import type { Callable } from "../surface/member.ts";
import { parameterNames } from "../surface/member-functions.ts";
import { hasSecretName } from "./core/secrets.ts";

/** Returns for each parameter of a call whether it is named like a secret, as far as its names are known. */
export function secretParameters({ member, wrapper }: Call): readonly boolean[] {
  const fn = calledFunction(member, wrapper);
  if (!fn) return [];
  let cached = secretParametersOf.get(fn);
  if (!cached) {
    const names = parameterNames(fn) ?? [];
    const areSecret: boolean[] = [];
    for (let index = 0; index < names.length; index++) {
      const name = names[index];
      addTo(areSecret, name !== undefined && hasSecretName(name));
    }
    cached = areSecret;
    secretParametersOf.set(fn, cached);
  }
  return cached;
}

const secretParametersOf = /* @__PURE__ */ new PrivateWeakMap<Callable, readonly boolean[]>();
