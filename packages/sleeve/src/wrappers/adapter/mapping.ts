/**
 * Maps each member of a target to an adaptee: to the name of a member of the same shape, or to a function
 * that receives the adaptee first. A property is mapped by `{ get }`, or by `{ get, set }` if the target is
 * writable.
 *
 * A missing required member, an unknown name, and a member of another shape are compile errors. For an
 * overloaded or generic member, the translation is typed by the last signature, with type parameters at their
 * constraints.
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

/** The names of adaptee members that can implement `Target[Key]` unchanged. */
type SameShape<Adaptee, Target, Key extends keyof Target> = {
  [Name in keyof Adaptee]-?: IsSameShape<Adaptee, Name, Target, Key> extends true ? Name : never;
}[keyof Adaptee];

/** A member of type `any` proves nothing, so it must be translated by a function. */
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
 * The compiler compares method parameters bivariantly, which accepts a method that takes less than the target
 * sends. Compared as function types, they must be contravariant.
 */
type TakesArgumentsOf<Member, TargetMember> = TargetMember extends (...args: infer Sent) => unknown
  ? Member extends (...args: infer Taken) => unknown
    ? ((...args: Taken) => void) extends (...args: Sent) => void
      ? true
      : false
    : false
  : false;

/** A property that the client may write must accept everything that the target's type accepts. */
type TakesWritesOf<Adaptee, Name extends keyof Adaptee, Value> =
  IsReadonly<Adaptee, Name> extends true ? false : [Value] extends [Adaptee[Name]] ? true : false;

type IsAny<Type> = 0 extends 1 & Type ? true : false;

/** The compiler treats two types as identical if generic functions over them are assignable. */
type IsIdentical<Left, Right> =
  (<Type>() => Type extends Left ? 1 : 2) extends <Type>() => Type extends Right ? 1 : 2 ? true : false;

type IsReadonly<Type, Key extends keyof Type> =
  IsIdentical<{ [Each in Key]: Type[Each] }, { -readonly [Each in Key]: Type[Each] }> extends true
    ? IsIdentical<Pick<Type, Key>, { readonly [Each in Key]: Type[Each] }>
    : true;
