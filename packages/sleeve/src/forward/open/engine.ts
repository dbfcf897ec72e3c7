import { reflect } from "../../surface/reflect.ts";
import type { OpenEngine } from "../call.ts";
import { requireLayeredMembers } from "../layered-members.ts";
import { Membrane } from "./membrane.ts";
import { openHandler } from "./proxy-handler.ts";

/** Wraps a subject in an ES `Proxy`. The layers that require one bring it with them. */
export const openEngine: OpenEngine = (subject, { isCreatedLate, ...options }) => {
  // Inspecting a lazily created subject would create it, and the fields of a class's instances are unknown.
  const isToBeSeen = typeof subject !== "function" && !isCreatedLate;
  if (isToBeSeen && options.layers.some(({ only }) => only)) {
    const members = new Map(reflect(subject).map((member) => [member.key, { member }]));
    requireLayeredMembers(members, options.layers, { areSecret: options.forwarding === "sealed" });
  }
  return new Membrane(subject, openHandler, options).toWrapper(subject, "outside");
};
