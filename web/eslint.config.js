import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

// Who imports whom: app → features → charts, ui → lib; features do not know each other.
const forbid = (patterns, message) => ({
  "no-restricted-imports": ["error", { patterns: [{ group: patterns, message }] }],
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
    files: ["src/lib/**"],
    rules: forbid(["**/ui/*", "**/charts/*", "**/features/**", "**/app/*"], "lib knows no screens."),
  },
  {
    files: ["src/features/**", "src/charts/**", "src/app/**"],
    rules: forbid(["@headlessui/*"], "ui/ alone imports Headless UI."),
  },
  {
    files: ["src/features/*/**"],
    rules: forbid(
      [
        "../home/*",
        "../setup/*",
        "../plan/*",
        "../measure/*",
        "../swap/*",
        "../judge/*",
        "../bill/*",
        "../report/*",
        "../shelf/*",
        "../ladder/*",
        "**/app/*",
        "@headlessui/*",
      ],
      "Features do not import each other; what they share is in machine/, ui/, charts/ or lib/.",
    ),
  },
);
