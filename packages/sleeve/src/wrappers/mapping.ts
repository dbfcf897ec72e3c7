/**
 * How each member of a target is had from an adaptee: by the name of a member of the same shape, or by a function
 * that gets the adaptee first. A property is translated by `{ get }`, or `{ get, set }` where the target may be
 * written.
 *
 * A required member left out, a name that the adaptee lacks, and a member of another shape are compile errors.
 * Of an overloaded or generic member, the translation is typed by its last signature, with the type parameters
 * at their constraints.
 */
export type Mapping<Target, Adaptee> = {
  readonly [Key in keyof Target]: MemberMapping<Target, Key, Adaptee>;
};

type MemberMapping<Target, Key extends keyof Target, Adaptee> =
  | SameShape<Adaptee, Target, Key>
  | (NonNullable<Target[Key]> extends (...args: infer Args) => infer Result
      ? (adaptee: Adaptee, ...args: Args) => Result
      : PropertyTranslation<Target, Key, Adaptee>);

type PropertyTranslation<Target, Key extends keyof Target, Adaptee> =
  IsReadonly<Target, Key> extends true
    ? { readonly get: (adaptee: Adaptee) => Target[Key] }
    : {
        readonly get: (adaptee: Adaptee) => Target[Key];
        readonly set: (adaptee: Adaptee, value: Target[Key]) => void;
      };

/** The names of the adaptee's members that may stand for `Target[Key]` as they are. */
type SameShape<Adaptee, Target, Key extends keyof Target> = {
  [Name in keyof Adaptee]-?: IsSameShape<Adaptee, Name, Target, Key> extends true ? Name : never;
}[keyof Adaptee];

/** An adaptee's member of type `any` proves nothing, so it has to be translated by a function. */
type IsSameShape<Adaptee, Name extends keyof Adaptee, Target, Key extends keyof Target> =
  IsAny<Adaptee[Name]> extends true
    ? false
    : Adaptee[Name] extends Target[Key]
      ? Target[Key] extends AnyFunction | undefined
        ? TakesArgumentsOf<Adaptee[Name], NonNullable<Target[Key]>>
        : IsReadonly<Target, Key> extends true
          ? true
          : TakesWritesOf<Adaptee, Name, Target[Key]>
      : false;

type AnyFunction = (...args: never[]) => unknown;

/**
 * The compiler compares the parameters of methods both ways, which lets a method through that takes less than the
 * target sends. As types of plain functions they have to hold in the one direction that is safe.
 */
type TakesArgumentsOf<Member, TargetMember> = TargetMember extends (...args: infer Sent) => unknown
  ? Member extends (...args: infer Taken) => unknown
    ? ((...args: Taken) => void) extends (...args: Sent) => void
      ? true
      : false
    : false
  : false;

/** A property that the client may write must take all that the target's type lets it write. */
type TakesWritesOf<Adaptee, Name extends keyof Adaptee, Value> =
  IsReadonly<Adaptee, Name> extends true ? false : [Value] extends [Adaptee[Name]] ? true : false;

type IsAny<Type> = 0 extends 1 & Type ? true : false;

/** Two types are identical to the compiler when generic functions over them are. */
type IsIdentical<Left, Right> =
  (<Type>() => Type extends Left ? 1 : 2) extends <Type>() => Type extends Right ? 1 : 2 ? true : false;

type IsReadonly<Type, Key extends keyof Type> =
  IsIdentical<{ [Each in Key]: Type[Each] }, { -readonly [Each in Key]: Type[Each] }> extends true
    ? IsIdentical<Pick<Type, Key>, { readonly [Each in Key]: Type[Each] }>
    : true;
