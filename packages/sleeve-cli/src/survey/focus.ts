import type { Survey } from "../documents/survey-document.ts";
import { type SurveyFacts, surveyOf } from "./survey.ts";

/** The requested part of a survey. */
export interface SurveyFocus {
  readonly package?: string | undefined;
  readonly file?: string | undefined;
  /** A member as the survey names it: `Crane.lift`, or only `lift`. */
  readonly member?: string | undefined;
}

/** Restricts a survey to a file, package or member. Scores and affected files are those of the whole. */
export function focusedSurvey(facts: SurveyFacts, { package: name, file, member }: SurveyFocus): Survey {
  const survey = surveyOf(facts);
  if (name === undefined && file === undefined && member === undefined) return survey;
  const isInFocus = (item: { readonly package: string; readonly place: { readonly file: string } }) =>
    (name === undefined || item.package === name) && (file === undefined || item.place.file === file);
  const isMember = (name: string) => member === undefined || name === member || name.endsWith(`.${member}`);
  // Imports and leaks do not belong to a member.
  const unlessMember = <Fact>(facts: readonly Fact[]) => (member === undefined ? facts : []);
  const part = surveyOf({
    ...facts,
    imports: unlessMember(facts.imports).filter(isInFocus),
    uses: facts.uses.filter((use) => isInFocus(use) && isMember(use.member)),
    leaks: unlessMember(facts.leaks).filter(isInFocus),
    uncompiled: unlessMember(facts.uncompiled ?? []).filter(isInFocus),
  });
  const byName = new Map(part.packages.map((pkg) => [pkg.name, pkg]));
  return {
    ...survey,
    packages: survey.packages.flatMap(({ name, affectedFiles, verdict }) => {
      const packageSurvey = byName.get(name);
      return packageSurvey && packageSurvey.files.length > 0
        ? [{ ...packageSurvey, affectedFiles, verdict }]
        : [];
    }),
  };
}
