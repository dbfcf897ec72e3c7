import { Command, Option } from "@commander-js/extra-typings";
import { FOLDER, jsonOption, traceOption, tsconfigOption } from "../command-line/options.ts";
import { runCommand } from "../command-line/run-command.ts";

export const surveyCommand = new Command("survey")
  .description(
    "List outside packages: where they are imported, which members are used, where their types leak",
  )
  .argument(...FOLDER)
  .addOption(jsonOption())
  .addOption(new Option("--mermaid", "print files and packages as a Mermaid flowchart").conflicts("json"))
  .option("--imports", "survey imports only, without the compiler; fast in large projects")
  .option("--built-ins", "include built-in modules and globals of the runtime")
  .option("--package <name>", "show one package in detail")
  .option("--file <file>", "show only uses in one file; path relative to the project")
  .option("--member <name>", "show the places and signatures of one member")
  .addOption(tsconfigOption())
  .addOption(traceOption())
  .action((folder, options) =>
    runCommand({ ...options, folder }, async () => {
      const { json, mermaid, tsconfig, imports, builtIns, package: name, file, member } = options;
      const [
        { runSurvey },
        { documentText },
        { surveyText },
        { surveyMermaid },
        { coloursFor },
        { withProgress },
      ] = await Promise.all([
        import("./command.ts"),
        import("../report/json.ts"),
        import("../report/survey-text.ts"),
        import("../report/survey-mermaid.ts"),
        import("../report/terminal.ts"),
        import("../report/progress.ts"),
      ]);
      const { survey, problems } = await withProgress((onProgress) =>
        runSurvey({
          folder,
          tsconfig,
          imports,
          builtIns,
          signatures: json === true || member !== undefined,
          focus: { package: name, file, member },
          onProgress,
        }),
      );
      const isDetailed = [name, file, member].some((focus) => focus !== undefined);
      const text = () => surveyText(survey, isDetailed, coloursFor(process.stdout));
      if (json) process.stdout.write(documentText({ ...survey }, problems));
      else process.stdout.write(mermaid ? surveyMermaid(survey) : text());
      return { problems, hasFindings: false };
    }),
  );
