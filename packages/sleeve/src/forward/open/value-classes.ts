import { every, getOwnPropertyDescriptor, getPrototypeOf, ownKeys } from "../../shared/intrinsics.ts";
import { isErrorWithoutMethods } from "./builtins.ts";
import { isCopied } from "./value-copies.ts";

/** Whether no property of a value holds an object, other than functions such as a `toString` of its own. */
export function holdsFunctionsAtMost(value: object): boolean {
  return every(ownKeys(value), (key) => {
    if (key === "stack") return true;
    const descriptor = getOwnPropertyDescriptor(value, key);
    return !descriptor?.get && !(typeof descriptor?.value === "object" && descriptor.value !== null);
  });
}

/** Whether an object is of a built-in class of values, or of an error class without methods. */
export function isValueClass(value: object): boolean {
  const prototype = getPrototypeOf(value);
  return prototype !== null && (isCopied(prototype) || isErrorWithoutMethods(prototype));
}
