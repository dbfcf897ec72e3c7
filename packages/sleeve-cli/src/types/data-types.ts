import { modifiersOf } from "../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  ModifierFlags,
  type Node,
  SignatureKind,
  SymbolFlags,
  type Type,
  TypeFlags,
  type TypeParameter,
} from "../compiler/typescript.ts";

export function parametersOfAlias(checker: Checker, declaration: Node | undefined): readonly TypeParameter[] {
  const { typeParameters = [] } = (declaration ?? {}) as { typeParameters?: readonly Node[] };
  if (typeParameters.length === 0) return [];
  const names = typeParameters.map((parameter) => (parameter as Node & { name: Node }).name);
  return checker.getSymbolAtLocation(names).flatMap((symbol) => {
    const type = symbol && checker.getDeclaredTypeOfSymbol(symbol);
    return type?.isTypeParameter() ? type : [];
  });
}

export function localParametersOf(declared: Type): readonly TypeParameter[] {
  return declared.isClassOrInterface() ? declared.getLocalTypeParameters() : [];
}

/** Whether an alias is an object type that could also be an interface. */
export function isPlainRecord(checker: Checker, type: Type): boolean {
  if ((type.flags & TypeFlags.Object) === 0 || type.isTypeReference()) return false;
  const isCalled = [SignatureKind.Call, SignatureKind.Construct].some(
    (kind) => checker.getSignaturesOfType(type, kind).length > 0,
  );
  return !isCalled && checker.getPropertiesOfType(type).length > 0;
}

/** Whether a type has only public values, so that anyone can create an object of it. */
export function isData(checker: Checker, type: Type): boolean {
  const properties = checker.getPropertiesOfType(type);
  return properties.every((property) => !isFunctionMember(property) && !isKept(property));
}

function isFunctionMember({ flags }: CompilerSymbol): boolean {
  return (flags & SymbolFlags.Method) !== 0;
}

/** Whether a member is private or protected. */
function isKept({ name, declarations }: CompilerSymbol): boolean {
  if (/^(#|__#)/.test(name)) return true;
  return declarations.some((declaration) => {
    const node: Node | undefined = declaration.resolve();
    return (
      node !== undefined && (modifiersOf(node) & (ModifierFlags.Private | ModifierFlags.Protected)) !== 0
    );
  });
}
