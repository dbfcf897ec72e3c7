/** One member of a generated wrapper, independent of the form in which it is written. */
export type MemberSpec = MethodSpec | PropertySpec | AccessorSpec;

export interface MethodSpec {
  readonly kind: "method";
  readonly name: string;
  /** `async `, `async *`, `*`. Default: none. */
  readonly prefix?: string;
  /** Type parameters: `<T>`. */
  readonly generics?: string;
  readonly parameters?: string;
  readonly result?: string;
  readonly body: string;
  /** Declarations of overloads before the implementation, for forms that can have them. */
  readonly overloads?: readonly string[];
}

export interface PropertySpec {
  readonly kind: "property";
  readonly name: string;
  readonly modifiers?: string;
  readonly type?: string;
  readonly value: string;
}

export interface AccessorSpec {
  readonly kind: "accessor";
  readonly name: string;
  readonly type: string;
  readonly value: string;
  /** Type that the setter accepts. Default: there is no setter. */
  readonly accepts?: string;
}

export function method(
  name: string,
  parameters: string,
  result: string,
  body: string,
  more: Partial<MethodSpec> = {},
): MethodSpec {
  return { kind: "method", name, parameters, result, body, ...more };
}

export function property(name: string, value: string, type?: string, modifiers?: string): PropertySpec {
  return { kind: "property", name, value, ...(type && { type }), ...(modifiers && { modifiers }) };
}

function signature({ generics = "", parameters = "", result }: MethodSpec): string {
  return `${generics}(${parameters})${result ? `: ${result}` : ""}`;
}

/** Writes members in the body of a class. */
export function inClass(members: readonly MemberSpec[]): string {
  return members.map(classMember).join("\n");
}

function classMember(member: MemberSpec): string {
  switch (member.kind) {
    case "method": {
      const overloads = (member.overloads ?? []).map((overload) => `  ${member.name}${overload};\n`).join("");
      return `${overloads}  ${member.prefix ?? ""}${member.name}${signature(member)} { ${member.body} }`;
    }
    case "property":
      return `  ${member.modifiers ? `${member.modifiers} ` : ""}${member.name}${member.type ? `: ${member.type}` : ""} = ${member.value};`;
    case "accessor":
      return accessors(member).join("\n");
  }
}

function accessors({ name, type, value, accepts }: AccessorSpec): readonly string[] {
  return [
    `  get ${name}(): ${type} { return ${value}; }`,
    ...(accepts ? [`  set ${name}(given: ${accepts}) { void given; }`] : []),
  ];
}

/** Whether members can be written in an object literal: without modifiers and overloads. */
export function fitsLiteral(members: readonly MemberSpec[]): boolean {
  return members.every(
    (member) =>
      !(member.kind === "property" && member.modifiers) && !(member.kind === "method" && member.overloads),
  );
}

/** Whether members can be written as arrow functions: without `this` and generators. */
export function fitsArrows(members: readonly MemberSpec[]): boolean {
  return (
    fitsLiteral(members) &&
    members.every(
      (member) =>
        member.kind === "property" ||
        (member.kind === "method" && !member.body.includes("this") && !member.prefix?.includes("*")),
    )
  );
}

/** Writes members in an object literal, with methods. */
export function inLiteral(members: readonly MemberSpec[]): string {
  return members
    .map((member) => {
      if (member.kind === "accessor") return accessors(member).join(",\n");
      if (member.kind === "property")
        return `  ${member.name}: ${member.value}${member.type ? ` as ${member.type}` : ""}`;
      return classMember(member);
    })
    .join(",\n");
}

/** Writes members in an object literal, with arrow functions. */
export function withArrows(members: readonly MemberSpec[]): string {
  return members
    .map((member) =>
      member.kind === "method"
        ? `  ${member.name}: ${member.prefix ?? ""}${signature(member)} => { ${member.body} }`
        : inLiteral([member]),
    )
    .join(",\n");
}
