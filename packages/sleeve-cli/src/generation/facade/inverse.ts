import { wordsOf } from "../adapt/units.ts";

/** Verbs and those that undo them. */
const INVERSES: Readonly<Record<string, string>> = {
  acquire: "release", activate: "deactivate", add: "remove delete", allocate: "free release deallocate", apply: "revert",
  assign: "release", attach: "detach", begin: "rollback abort end", block: "release", book: "cancel release", charge: "refund",
  claim: "release", connect: "disconnect close", create: "delete destroy remove", deposit: "withdraw", dispatch: "recall",
  enable: "disable", enqueue: "dequeue remove", enter: "leave exit", grant: "revoke", hire: "dismiss", hold: "release",
  increment: "decrement", insert: "remove delete", install: "uninstall", join: "leave", load: "unload", lock: "unlock",
  login: "logout", mount: "unmount", moor: "unmoor", open: "close", order: "cancel", pause: "resume", place: "cancel remove",
  post: "retract delete", publish: "retract", raise: "lower", register: "deregister", request: "cancel withdraw",
  reserve: "cancel release free", save: "delete remove", schedule: "cancel", send: "recall", show: "hide", start: "stop cancel",
  submit: "withdraw cancel", subscribe: "cancel", upload: "delete remove", withdraw: "deposit", write: "delete remove",
}; // biome-ignore format: a table

/**
 * Returns how well one member undoes another by its name, from 0 to 1: `cancelBerth` undoes `bookBerth`, and `cancel` does if no
 * other member does. 0 if it does not.
 */
export function inverseSimilarity(member: string, candidate: string): number {
  const [verb = "", ...noun] = wordsOf(member);
  const [inverse = "", ...object] = wordsOf(candidate);
  if (!undoes(inverse, verb)) return 0;
  if (noun.join() === object.join()) return 1;
  if (object.length === 0) return 0.8;
  // `cancelBooking` undoes `book` and `bookBerth`.
  const [onlyWord = ""] = object;
  return object.length === 1 && onlyWord.startsWith(verb.replace(/e$/, "")) ? 0.9 : 0;
}

function undoes(inverse: string, verb: string): boolean {
  return (
    (INVERSES[verb]?.split(" ").includes(inverse) ?? false) ||
    [`un${verb}`, `de${verb}`, `dis${verb}`].includes(inverse)
  );
}
