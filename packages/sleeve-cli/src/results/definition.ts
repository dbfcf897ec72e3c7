import { Command, Option } from "@commander-js/extra-typings";
import { traceOption } from "../command-line/options.ts";
import { runCommand } from "../command-line/run-command.ts";

export const reportCommand = new Command("report")
  .description("Print contract results from files written by checkContract or injectFaults")
  .argument("<files...>", "JSON files")
  .addOption(new Option("--junit", "print the results as JUnit XML").conflicts("page"))
  .addOption(new Option("--page", "print the results as one HTML page"))
  .addOption(traceOption())
  .action((files, options) =>
    runCommand(options, async () => {
      const [
        { runReport },
        { hasNoFindings },
        { resultsText },
        { resultsJunit },
        { resultsPage },
        { coloursFor },
      ] = await Promise.all([
        import("./command.ts"),
        import("./results-document.ts"),
        import("../report/results/results-text.ts"),
        import("../report/results/results-junit.ts"),
        import("../report/results/results-page.ts"),
        import("../report/terminal.ts"),
      ]);
      const results = runReport(files);
      if (options.junit) process.stdout.write(resultsJunit(results));
      else if (options.page) process.stdout.write(resultsPage(results));
      else process.stdout.write(resultsText(results, coloursFor(process.stdout)));
      return { problems: [], hasFindings: !results.every(hasNoFindings) };
    }),
  );
