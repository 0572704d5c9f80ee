import { readdirSync } from "node:fs";

import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

// Who imports whom: app → features → job → charts, ui → lib, api; a feature imports no other feature.
const FEATURES = readdirSync(new URL("src/features", import.meta.url));
const HEADLESS = { group: ["@headlessui/*"], message: "ui/ alone imports Headless UI." };
const room = (name, above, message, others = [HEADLESS]) => ({
  files: [`src/${name}/**`],
  rules: {
    "no-restricted-imports": [
      "error",
      { patterns: [{ regex: `^(\\.{1,2}/)+(${above.join("|")})/`, message }, ...others] },
    ],
  },
});

export default ts.config(
  { ignores: ["dist", "dist-report", "mutation", "eslint.config.js", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ts.configs.recommendedTypeChecked,
  hooks.configs.flat.recommended,
  { languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } } },
  {
    rules: {
      "@typescript-eslint/no-explicit-any": "error",
      "@typescript-eslint/switch-exhaustiveness-check": "error",
      "@typescript-eslint/no-misused-promises": ["error", { checksVoidReturn: { attributes: false } }],
    },
  },
  {
    files: ["src/**/*.{ts,tsx}"],
    ignores: ["src/**/*.test.ts"],
    rules: {
      complexity: ["error", 15],
      "max-lines-per-function": ["error", { max: 60, skipBlankLines: true }],
    },
  },
  room("lib", ["app", "features", "job", "charts", "ui"], "lib knows no screens."),
  room("charts", ["app", "features", "job"], "A chart knows no feature: what it draws is handed to it."),
  room("job", ["app", "features"], "What stations share knows none of them."),
  room("ui", ["app", "features", "job"], "ui knows no feature.", []),
  { files: ["src/app/**"], rules: { "no-restricted-imports": ["error", { patterns: [HEADLESS] }] } },
  ...FEATURES.map((feature) =>
    room(
      `features/${feature}`,
      ["app", ...FEATURES.filter((other) => other !== feature)],
      "Features do not import each other; what they share is in job/, charts/, ui/ or lib/.",
    ),
  ),
);
