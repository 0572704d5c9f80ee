// Prints as JSON every bug that can be planted into the files that are named: where, and what would stand there.
import { readFileSync } from "node:fs";

import { createInstrumenter } from "@stryker-mutator/instrumenter";
import { createInjector } from "typed-inject";

const silent = () => undefined;
const logger = { isDebugEnabled: () => false, debug: silent, info: silent, warn: silent, trace: silent };
const instrumenter = createInjector()
  .provideValue("logger", logger)
  .provideValue("getLogger", () => logger)
  .provideValue("options", { warnings: false })
  .injectFunction(createInstrumenter);
const files = process.argv.slice(2).map((name) => ({
  name,
  content: readFileSync(name, "utf8"),
  mutate: true,
}));
const { mutants } = await instrumenter.instrument(files, {
  plugins: null,
  excludedMutations: [],
  ignorers: [],
  noHeader: true,
});
const shown = mutants.map(({ fileName, location, replacement, mutatorName }) => ({
  fileName,
  location,
  replacement,
  mutatorName,
}));
process.stdout.write(JSON.stringify(shown));
