import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { generatedFiles } from "sleeve-cli/vite";
import { build, createLogger, createServer } from "vite";
import { expect, onTestFinished, test, vi } from "vitest";
import { project, sleeve } from "../harness.ts";

const TIDES = "export interface Tides { heightAt(hour: number): number }\n";
const LATER = "export interface Tides { levelAt(hour: number): number }\n";

function officeWith(text: string): string {
  const root = project({
    "src/tides.ts": text,
    "src/main.ts": 'import { FakeTides } from "./fake-tides.ts";\nconsole.log(new FakeTides());\n',
    "index.html": '<script type="module" src="/src/main.ts"></script>\n',
    "tsconfig.json": JSON.stringify({
      compilerOptions: { module: "esnext", moduleResolution: "bundler", target: "es2023", types: [], noEmit: true, allowImportingTsExtensions: true },
      include: ["src"],
    }), // biome-ignore format: a list
  });
  expect(sleeve(root, "wrap", "src/tides.ts#Tides", "--as", "fake", "--write").code).toBe(0);
  return root;
}

test("a development server writes stale files again, and its overlay shows what cannot be written", async () => {
  const root = officeWith(TIDES);
  const server = await createServer({
    root,
    configFile: false,
    logLevel: "silent",
    server: { port: 0 },
    plugins: [generatedFiles()],
  });
  onTestFinished(() => server.close());
  const sent: unknown[] = [];
  server.ws.send = (payload: unknown) => void sent.push(payload);
  const generated = () => readFileSync(join(root, "src/fake-tides.ts"), "utf8");
  // The watcher may not be ready for the first save.
  const save = (text: string) => writeFileSync(join(root, "src/tides.ts"), text);
  await vi.waitFor(() => {
    save(LATER);
    expect(generated()).toContain("levelAt");
  }, { timeout: 30_000, interval: 1000 }); // biome-ignore format: short
  await vi.waitFor(() => {
    save("export type Tides = any;\n");
    expect(JSON.stringify(sent)).toContain("src/fake-tides.ts cannot be generated again");
  }, { timeout: 30_000, interval: 1000 }); // biome-ignore format: short
  expect(generated()).toContain("levelAt");
});

test("a server reports a folder that does not exist, and starts no run after it is closed", async () => {
  const root = officeWith(TIDES);
  const printed: string[] = [];
  const customLogger = { ...createLogger("silent"), error: (message: string) => void printed.push(message) };
  const serve = (folder: string) =>
    createServer({
      root,
      configFile: false,
      customLogger,
      server: { middlewareMode: true, hmr: false, ws: false },
      plugins: [generatedFiles({ folder })],
    });
  const lost = await serve(join(root, "nowhere"));
  await lost.close();
  expect(printed.join()).toMatch(/^sleeve wrap cannot run in .*nowhere: .* \[UNEXPECTED\]$/);
  writeFileSync(join(root, "src/tides.ts"), LATER);
  const generated = () => readFileSync(join(root, "src/fake-tides.ts"), "utf8");
  const server = await serve(root);
  await vi.waitFor(() => expect(generated()).toContain("levelAt"), { timeout: 30_000 });
  writeFileSync(join(root, "src/tides.ts"), TIDES);
  // A save just before the server is closed.
  server.watcher.emit("change", join(root, "src/tides.ts"));
  await server.close();
  await new Promise((resolve) => setTimeout(resolve, 3000));
  expect(generated()).toContain("levelAt");
});

test("a build fails if a file is stale", async () => {
  const root = officeWith(TIDES);
  const run = () => build({ root, configFile: false, logLevel: "silent", plugins: [generatedFiles()] });
  await run();
  writeFileSync(join(root, "src/tides.ts"), LATER);
  await expect(run()).rejects.toThrow(
    "Generated files are stale: src/fake-tides.ts. Run npx sleeve wrap --write.",
  );
});

test("all generated files are written again by one command, and problems name their files", () => {
  const root = officeWith(TIDES);
  expect(sleeve(root, "wrap", "src/tides.ts#Tides", "--as", "surface", "--write").code).toBe(0);
  expect(sleeve(root, "wrap", "--check").code).toBe(0);
  writeFileSync(join(root, "src/tides.ts"), LATER);
  expect(sleeve(root, "wrap", "--check").code).toBe(1);
  expect(sleeve(root, "wrap", "--write").stdout).toContain("Written: 2 files.");
  expect(sleeve(root, "wrap", "--check").code).toBe(0);
  writeFileSync(join(root, "src/tides.ts"), "export {};\n");
  const { code, stderr } = sleeve(root, "wrap", "--write");
  expect(code).toBe(2);
  expect(
    stderr.match(
      /^sleeve: src\/(fake-tides|tides-surface)\.ts cannot be generated again\..*\[NO_SUCH_EXPORT\]$/gm,
    ),
  ).toHaveLength(2);
  expect(sleeve(project({ "src/main.ts": "export {};\n" }), "wrap").stdout).toBe(
    "There are no generated files.\n",
  );
});
