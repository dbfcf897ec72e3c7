import type { OwnType } from "../compiler/own-types.ts";
import type { Place } from "../place.ts";

/** One file of a draft. */
export interface DraftFile {
  readonly file: string;
  readonly role: "target" | "adapter" | "surface" | "contract" | "config";
  /** Whether it would be made, added to, is as it would be, or is somebody's and is left alone. */
  readonly state: "new" | "added to" | "the same" | "kept";
  readonly text: string;
}

/** What a draft offers, and what it leaves to be done by hand. */
export interface Draft {
  readonly outside: string;
  /** As `file#export`. */
  readonly target: string;
  readonly adapter: string;
  readonly names: "same" | Readonly<Record<string, string>>;
  readonly members: readonly { readonly member: string; readonly replaces: string; readonly form: string }[];
  /** Interfaces of their own that the target extends, where its uses fall apart. */
  readonly groups: readonly {
    readonly interface: string;
    readonly usedIn: string;
    readonly members: readonly string[];
  }[];
  readonly types: readonly { readonly type: string; readonly replaces: string }[];
  readonly byHand: readonly ByHand[];
  /** Where the target is there already: what the project uses by now that it does not have, and the other way round. */
  readonly since: { readonly added: readonly string[]; readonly gone: readonly string[] } | null;
  /** How many files and references would be moved. */
  readonly callers: { readonly files: number; readonly references: number };
  readonly files: readonly DraftFile[];
  /** The entries for a config that could not be added to. */
  readonly configEntries: string | null;
}

/** What cannot be drafted: where it stands, why, and what to do. */
export interface ByHand {
  readonly what: string;
  readonly why: string;
  readonly remedy: string;
  readonly places: readonly Place[];
}

/** The types of ours, by what they replace. */
export function typesReplaced(types: readonly OwnType[]): Draft["types"] {
  return types.map(({ name, outsideName }) => ({ type: name, replaces: outsideName }));
}
