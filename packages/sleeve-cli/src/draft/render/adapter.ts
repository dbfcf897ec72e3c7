import { type Code, owned } from "../../emit/code.ts";
import type { Declaration, Import, Module } from "../../emit/module.ts";
import type { Language } from "../../emit/printed.ts";
import { accessText, exportKey, RESERVED } from "../../isolation/naming.ts";
import { camelCase, isIdentifierName, propertyKey } from "../../types/writing/type-text.ts";
import { EXPORT_ASSIGNMENT } from "../../uses/references.ts";
import { stringLiteral, writtenText } from "../../written-text.ts";
import { callbackResultKey, exportChoice, type Outline, type OutlineMember } from "../outline/model.ts";
import type { Reexport } from "../outline/reexports.ts";
import { implementationEntry } from "./implementations.ts";
import { ImportNames } from "./import-names.ts";

export interface AdapterPlace {
  readonly language: Language;
  /** Specifier of the target. */
  readonly target: string;
  /** Returns the specifier of a module in the adapter's file. */
  readonly written: (specifier: string) => string;
}

/** The owner of errors in re-exporting a whole module. */
export const REEXPORT_ALL = "re-export of all";

/** Local name of the module of the target, for types that are exported under the name of a value. */
const TARGET_MODULE = "own";

/** Returns the file of the adapter: the only importer of the outside module. */
export function adapterModule(outline: Outline, place: AdapterPlace): Module {
  const { members, reexports, reexportsAll, touched } = outline;
  const { written: writtenSpecifier } = place;
  const names = new ImportNames(outline);
  const values = members.filter(({ form }) => form !== "type");
  const loaded = new Set([
    ...names.imports.map(({ specifier }) => specifier),
    ...reexports.filter(({ isType }) => !isType).map(({ specifier }) => specifier),
    reexportsAll,
  ]);
  return {
    isChecked: values.length > 0,
    imports: [
      ...outsideImports(names, writtenSpecifier),
      ...modulesReexported(reexports, writtenSpecifier),
      { specifier: place.target, name: outline.target, local: outline.target },
      { specifier: place.target, name: "*", local: TARGET_MODULE },
    ],
    touched: touched.filter((specifier) => !loaded.has(specifier)).map(writtenSpecifier),
    declarations: [
      ...(reexportsAll === undefined
        ? []
        : [
            {
              kind: "reexport" as const,
              specifier: writtenSpecifier(reexportsAll),
              names: "*" as const,
              owners: [REEXPORT_ALL],
            },
          ]),
      ...reexportDeclarations(reexports, writtenSpecifier),
      ...setUpDeclarations(outline, names),
      ...(values.length === 0 ? [] : [objectDeclaration(outline, values, names, place.language)]),
      ...typesUnderOutsideNames(outline, place.target),
      ...valuesUnderOutsideNames(outline),
    ],
  };
}

function outsideImports(
  names: ImportNames,
  writtenSpecifier: (specifier: string) => string,
): readonly Import[] {
  return names.imports.flatMap(({ specifier, standard, namespace, named, keys }) => {
    const from = { specifier: writtenSpecifier(specifier), owners: keys.map(exportChoice) };
    return [
      ...(standard === undefined ? [] : [{ ...from, name: "default", local: standard }]),
      ...(namespace === undefined ? [] : [{ ...from, name: "*", local: namespace }]),
      ...named.map((name) => ({ ...from, name, local: name })),
    ];
  });
}

/** Modules that are exported as values are imported first. */
function modulesReexported(
  reexports: readonly Reexport[],
  writtenSpecifier: (specifier: string) => string,
): readonly Import[] {
  return reexports.filter(isModule).map(({ specifier, reexportedAs, key }) => ({
    specifier: writtenSpecifier(specifier),
    name: "*",
    local: `${reexportedAs}Module`,
    owners: [exportChoice(key)],
  }));
}

function isModule(reexport: Reexport): boolean {
  return reexport.export === EXPORT_ASSIGNMENT;
}

/** One statement for the values and one for the types of each module. */
function reexportDeclarations(
  reexports: readonly Reexport[],
  writtenSpecifier: (specifier: string) => string,
): readonly Declaration[] {
  const statements = new Map<string, Declaration & { readonly kind: "reexport" }>();
  for (const reexport of reexports) {
    const { specifier, isType, key, reexportedAs } = reexport;
    const local = isModule(reexport);
    const id = local ? key : `${isType}\0${specifier}`;
    const name = { name: local ? `${reexportedAs}Module` : reexport.export, as: reexportedAs };
    const statement = statements.get(id);
    const names = statement && statement.names !== "*" ? statement.names : [];
    statements.set(id, {
      kind: "reexport",
      isType,
      ...(!local && { specifier: writtenSpecifier(specifier) }),
      owners: [...(statement?.owners ?? []), exportChoice(key)],
      names: [...names, name],
    });
  }
  return [...statements.values()].map((statement, index) => ({
    ...statement,
    ...(index === 0 && { comment: "Re-exported, because it cannot be drafted." }),
  }));
}

/** The statements that set the module up, before anything of it is used. */
function setUpDeclarations({ setUps = [], outside }: Outline, names: ImportNames): readonly Declaration[] {
  return setUps.map(({ pieces }) => ({
    kind: "code",
    code: `${pieces
      .map((piece) =>
        typeof piece === "string"
          ? piece
          : names.of({ key: exportKey(outside, piece.site.specifier, piece.export) }),
      )
      .join("")};`,
  }));
}

function objectDeclaration(
  { outside, object, target }: Outline,
  values: readonly OutlineMember[],
  names: ImportNames,
  language: Language,
): Declaration {
  const [soleValue] = values;
  const isWhole = soleValue?.form === "whole";
  const value: Code = isWhole
    ? owned([exportChoice(soleValue.key)], asserted(names.of(soleValue), soleValue, target))
    : ["{\n", values.flatMap((member) => entriesOf(member, target, names, language)), "}"];
  return {
    kind: "value",
    name: object,
    type: target,
    doc: `The only file that imports ${writtenText(outside, "block comment")}.`,
    ...(isWhole && { owners: [exportChoice(soleValue.key)] }),
    value,
  };
}

function asserted(value: string, { isAsserted }: OutlineMember, type: string): string {
  return isAsserted ? `${value} as ${type}` : value;
}

/** Returns the entries of an export in the object: its value, a factory, and a form that returns a promise. */
function entriesOf(
  outlineMember: OutlineMember,
  target: string,
  names: ImportNames,
  language: Language,
): readonly Code[] {
  const { key, member, form, factory, callbackResult, implementation } = outlineMember;
  const value = names.of(outlineMember);
  const promised = callbackResult
    ? [
        owned(
          [exportChoice(callbackResultKey(key))],
          `${promiseEntry(calledOf(value, implementation), callbackResult)},\n`,
        ),
      ]
    : [];
  if (implementation)
    return [
      owned([exportChoice(key)], implementationEntry(outlineMember, implementation, value, target)),
      ...promised,
    ];
  const entry = (name: string, text: string): Code =>
    owned(
      [exportChoice(key)],
      `${propertied(name, asserted(text, outlineMember, `${target}[${stringLiteral(name)}]`))},\n`,
    );
  return [
    entry(member, form === "factory" ? factoryCode(outlineMember, outlineMember, value, language) : value),
    ...(factory ? [entry(factory.member, factoryCode(outlineMember, factory, value, language))] : []),
    ...promised,
  ];
}

/** Returns the outside function, which may be a member of an export. */
function calledOf(value: string, implementation: OutlineMember["implementation"]): string {
  const { property } = implementation ?? {};
  return property === undefined ? value : `${value}${accessText(property)}`;
}

/** `lift`, or `lift: crane.lift`. */
function propertied(member: string, value: string): string {
  const key = propertyKey(member);
  return key === value ? key : `${key}: ${value}`;
}

/** Returns a function that constructs. */
function factoryCode(
  { takesInstances, isAsserted }: OutlineMember,
  { parameters }: { readonly parameters: readonly string[] | undefined },
  value: string,
  language: Language,
): string {
  const list = parameters?.join(", ") ?? "...args";
  // The instances that are passed in are the module's own, whatever part of them the target declares.
  const isTyped = (takesInstances || isAsserted) && language === "typescript";
  const text = isTyped
    ? `(...args: ConstructorParameters<typeof ${value}>) => new ${value}(...args)`
    : `(${list}) => new ${value}(${list})`;
  return isAsserted ? `(${text})` : text;
}

/** Returns the call of a function with a callback as a promise. */
function promiseEntry(
  called: string,
  { member, parameters, value }: NonNullable<OutlineMember["callbackResult"]>,
): string {
  const callback = `(error${value === undefined ? "" : `, ${value}`}) => (error ? reject(error) : resolve(${value ?? ""}))`;
  const call = `${called}(${[...parameters, callback].join(", ")});`;
  return `${propertyKey(member)}: (${parameters.join(", ")}) => new Promise((resolve, reject) => {\n${call}\n})`;
}

/** Exports types of the target under the names that callers keep. */
function typesUnderOutsideNames({ members }: Outline, target: string): readonly Declaration[] {
  return members.flatMap(({ key, form, type, reexportedAs: name }): Declaration[] =>
    form !== "type" || type === undefined || name === undefined
      ? []
      : [
          {
            kind: "reexport",
            specifier: target,
            names: [{ name: type, as: name }],
            isType: true,
            owners: [exportChoice(key)],
          },
        ],
  );
}

/** Exports values of the adapter, and their types, under the names that callers keep. */
function valuesUnderOutsideNames(outline: Outline): readonly Declaration[] {
  return outline.members.flatMap((outlineMember): readonly Declaration[] => {
    const { form, reexportedAs: name } = outlineMember;
    if (form === "type" || name === undefined) return [];
    return [
      ...(name === outline.object ? [] : valueUnderName(outlineMember, name, outline)),
      ...typeUnderName(outlineMember, name, outline),
    ];
  });
}

function valueUnderName(
  { key, member }: OutlineMember,
  name: string,
  { object, target }: Outline,
): readonly Declaration[] {
  const owners = [exportChoice(key)];
  const value = `${object}${accessText(member)}`;
  // The type is written, because a call of an assertion function requires it, and so do some settings.
  const type = member === "" ? target : `${target}[${stringLiteral(member)}]`;
  if (name === "default" || (isIdentifierName(name) && !RESERVED.has(name)))
    return [{ kind: "value", name, type, value, owners }];
  const local = `${camelCase(name)}Handed`;
  return [
    { kind: "value", name: local, type, value, owners, isExported: false },
    { kind: "reexport", names: [{ name: local, as: name }], owners },
  ];
}

function typeUnderName(
  { key, type }: OutlineMember,
  name: string,
  { types }: Outline,
): readonly Declaration[] {
  const copied = types.find((copiedType) => copiedType.name === type);
  if (!copied || name === "default" || !isIdentifierName(name)) return [];
  const { parameters, parameterNames } = copied;
  const typeArguments = parameterNames.length > 0 ? `<${parameterNames.join(", ")}>` : "";
  return [
    {
      kind: "type",
      name,
      parameters,
      type: `${TARGET_MODULE}.${copied.name}${typeArguments}`,
      owners: [exportChoice(key)],
    },
  ];
}
