import { type Survey, type SurveyFacts, surveyOf } from "./survey.ts";

/** The part of a survey that is asked for. */
export interface SurveyFocus {
  readonly package?: string | undefined;
  readonly file?: string | undefined;
  /** A member as the survey names it: `Crane.lift`, or only `lift`. */
  readonly member?: string | undefined;
}

/** Surveys only what stands in a file, is of a package, or is about a member. Verdicts and reach are those of the whole. */
export function focusedSurvey(facts: SurveyFacts, { package: name, file, member }: SurveyFocus): Survey {
  const whole = surveyOf(facts);
  if (name === undefined && file === undefined && member === undefined) return whole;
  const isInFocus = (each: { readonly package: string; readonly place: { readonly file: string } }) =>
    (name === undefined || each.package === name) && (file === undefined || each.place.file === file);
  const isMember = (each: string) => member === undefined || each === member || each.endsWith(`.${member}`);
  // Imports and leaks are about no member.
  const unlessMember = <Fact>(all: readonly Fact[]) => (member === undefined ? all : []);
  const part = surveyOf({
    ...facts,
    imports: unlessMember(facts.imports).filter(isInFocus),
    uses: facts.uses.filter((each) => isInFocus(each) && isMember(each.member)),
    leaks: unlessMember(facts.leaks).filter(isInFocus),
  });
  const byName = new Map(part.packages.map((each) => [each.name, each]));
  return {
    ...whole,
    packages: whole.packages.flatMap(({ name: each, reach, verdict }) => {
      const found = byName.get(each);
      return found && found.files.length > 0 ? [{ ...found, reach, verdict }] : [];
    }),
  };
}
