import type { WrapKind } from "./place.ts";

/** What to generate. */
export interface GenerateOptions {
  /** The type to wrap, as `file#export` or `package#export`; all types of a file or package without `#`. */
  readonly type: string;
  readonly kind: WrapKind;
  readonly tsconfig?: string | undefined;
  /** The generated file, or its folder, relative to the project. Default: beside the type's file, or in `src` for a package. */
  readonly to?: string | undefined;
  /** Name of the generated class. Default: the type's name and the kind: `TideTableForwarder`, `FakeTideTable`. */
  readonly name?: string | undefined;
  /** The adaptee of an adapter, those of the implementations of a bridge, or the subsystems of a facade, named as the type is. */
  readonly over?: readonly string[] | undefined;
  /** Steps of the operations of a facade, in any order, as `admit:book,announce`. Default: those that the types determine. */
  readonly operations?: readonly string[] | undefined;
  /** Words that mean the same in names, as lists, for proposals. Default: those of programming in general. */
  readonly synonyms?: readonly (readonly string[])[] | undefined;
  /** Layers of a decorator or proxy, the outermost first, as `logging` or `cached:heightAt,nextTide`. */
  readonly layers?: readonly string[] | undefined;
  /** Members that clear what the layer `cached` keeps. */
  readonly clearedBy?: readonly string[] | undefined;
  /** Whether the file may not import the library. Default: `false`. */
  readonly standalone?: boolean | undefined;
}
